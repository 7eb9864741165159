/** Looks again and again until what is seen fits; gives up after a minute. */
export async function until<Seen>(look: () => Promise<Seen>, fits: (seen: Seen) => boolean): Promise<Seen> {
  for (let attempt = 0; attempt < 400; attempt += 1) {
    const seen = await look();
    if (fits(seen)) return seen;
    await new Promise((resolve) => setTimeout(resolve, 150));
  }
  throw new Error('it never came to this');
}
