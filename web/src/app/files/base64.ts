/** A file’s bytes in Base64. */
export async function base64Of(file: Blob): Promise<string> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  let binary = '';
  const step = 0x8000;
  for (let from = 0; from < bytes.length; from += step)
    binary += String.fromCharCode(...bytes.subarray(from, from + step));
  return btoa(binary);
}
