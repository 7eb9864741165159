/** A part of the page’s address that may be missing. */
export const fromAddress = (value: string | undefined): string => value ?? '';
