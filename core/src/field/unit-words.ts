/**
 * Which units of a device answer, in a sentence.
 * @param answering their numbers
 * @param asked how many were asked
 */
export function sayUnits(device: string, answering: readonly number[], asked: number): string {
  const [one] = answering;
  if (one === undefined)
    return asked === 1 ? `The unit of ${device} doesn’t answer.` : `None of these ${asked} units of ${device} answers.`;
  return answering.length === 1
    ? `Unit ${one} of ${device} answers.`
    : `Units ${answering.join(', ')} of ${device} answer.`;
}
