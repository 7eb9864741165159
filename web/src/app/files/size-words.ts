const units = [
  { word: 'GB', bytes: 1e9 },
  { word: 'MB', bytes: 1e6 },
  { word: 'kB', bytes: 1000 },
] as const;

/** `640 bytes`, `3.2 MB`. */
export function sizeWords(bytes: number): string {
  const unit = units.find((one) => bytes >= one.bytes);
  return unit ? `${(bytes / unit.bytes).toFixed(1)} ${unit.word}` : `${bytes} bytes`;
}
