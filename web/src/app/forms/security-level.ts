/** Target security levels as they are chosen and said. */
export type LevelKey = 'none' | '1' | '2' | '3' | '4';
const keys: readonly LevelKey[] = ['none', '1', '2', '3', '4'];

export const levelText = (level: number | null): string => (level === null ? 'none' : `SL ${level}`);
export const levelChoices = keys.map((key) => ({ key, word: key === 'none' ? 'none set' : `SL ${key}` }));
export const levelKey = (level: number | null): LevelKey => keys.find((key) => key === String(level)) ?? 'none';
export const levelOf = (key: LevelKey): number | null => (key === 'none' ? null : Number(key));
