/** Catches files that a page hands to the browser from now on. @returns the text of one of them, the first one first */
export function savedFiles(): (index: number, encoding?: string) => Promise<string> {
  const saved: Blob[] = [];
  URL.createObjectURL = (blob) => (saved.push(blob as Blob), 'blob:x');
  URL.revokeObjectURL = () => undefined;
  jest.spyOn(HTMLAnchorElement.prototype, 'click').mockImplementation(() => undefined);
  return (index, encoding = 'utf-8') =>
    new Promise((resolve) => {
      const reader = new FileReader();
      reader.onload = () => resolve(String(reader.result));
      reader.readAsText(saved[index] ?? new Blob(), encoding);
    });
}
