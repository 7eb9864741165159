/** The text of the file that was chosen in a field; empty where none was. */
export async function chosenText(event: Event): Promise<string> {
  const file = (event.target as HTMLInputElement).files?.[0];
  return file ? file.text() : '';
}
