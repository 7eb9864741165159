const patienceMs = 150_000;

/** Looks again and again until what is seen fits; gives up after a while that a machine that is shared may need. */
export async function until<Seen>(look: () => Promise<Seen>, fits: (seen: Seen) => boolean): Promise<Seen> {
  for (const end = Date.now() + patienceMs; Date.now() < end;) {
    const seen = await look();
    if (fits(seen)) return seen;
    await new Promise((resolve) => setTimeout(resolve, 150));
  }
  throw new Error('it never came to this');
}
