/** A short word made of a name, that nothing else is called by yet. */
export function freeId(name: string, taken: readonly string[]): string {
  const plain =
    name
      .normalize('NFKD')
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-+|-+$/g, '')
      .slice(0, 60) || 'passage';
  for (let number = 1; ; number += 1) {
    const id = number === 1 ? plain : `${plain}-${number}`;
    if (!taken.includes(id)) return id;
  }
}
