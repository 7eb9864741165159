const patienceMs = Number(process.env['HINGE_UNTIL_MS'] ?? 150_000);

/** Looks again and again until what is seen fits; gives up after a while that a machine that is shared may need. */
export async function until<Seen>(look: () => Promise<Seen>, fits: (seen: Seen) => boolean): Promise<Seen> {
  const end = Date.now() + patienceMs;
  for (;;) {
    const seen = await look();
    if (fits(seen)) return seen;
    if (Date.now() > end) throw new Error(`It never came to this; last seen: ${JSON.stringify(seen).slice(0, 2000)}`);
    await new Promise((resolve) => setTimeout(resolve, 150));
  }
}
