/** The value of a JSON text, or null where it is none. */
export function parsedJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

/** What is said where a file is no JSON. */
export const notJson = {
  title: 'Not valid',
  detail: 'The file is not well-formed JSON.',
  remedy: 'Choose a file that was exported here. Nothing was changed.',
  faults: [],
};
