export const foundations: readonly string[];
export const rooms: Readonly<Record<string, readonly string[]>>;
export function usableFrom(room: string): readonly string[];
export function circleAmong(arrows: Readonly<Record<string, readonly string[]>>): readonly string[] | null;
