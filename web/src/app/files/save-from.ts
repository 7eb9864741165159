/** Has the browser fetch a file from the server and save it. */
export function saveFrom(address: string): void {
  const way = document.createElement('a');
  way.href = address;
  way.download = '';
  way.click();
}
