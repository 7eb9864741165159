/** The value of a JSON text, or null where it is none. */
export function parsedJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
