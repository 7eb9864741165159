/**
 * All addresses of the made-up plant lie in 127.<block>.0.0/16. Several of it stand side by side on one computer
 * where each is given a block of its own, by the environment.
 */
const block = blockFrom(process.env['HINGE_PLANT_BLOCK'] ?? '41');

/** The plant's own part of an address, such as `20.11`, made whole. */
export const inBlock = (rest: string): string => `127.${block}.${rest}`;

/** The range in which the whole plant stands. */
export const plantRange = `${inBlock('0.0')}/16`;

function blockFrom(text: string): number {
  const number = Number(text);
  if (!/^\d+$/.test(text) || number < 1 || number > 254)
    throw new Error(`HINGE_PLANT_BLOCK is “${text}”; it must be a number from 1 to 254.`);
  return number;
}
