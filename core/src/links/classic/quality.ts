const [qualityBits, good] = [0xc0, 0xc0];

/** Whether a quality says that the value is good (Data Access 6.8); null: there is none. */
export const isGoodQuality = (quality: number | null): boolean => quality !== null && (quality & qualityBits) === good;
