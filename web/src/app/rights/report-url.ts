/** Where the report of who can write is made: of what is looked for, at one server or at all. */
export function reportUrlOf({ find = '', server = '' }: { readonly find?: string; readonly server?: string }): string {
  const query = new URLSearchParams({ ...(find && { find }), ...(server && { server }) }).toString();
  return `/api/rights-writers.pdf${query === '' ? '' : `?${query}`}`;
}
