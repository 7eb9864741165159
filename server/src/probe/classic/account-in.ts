/** `DOMAIN\\name`, or a name alone, with its password. */
export function accountIn(text: string, password: string) {
  const parts = /^([^\\]+)\\(.+)$/.exec(text);
  return { user: parts?.[2] ?? text, domain: parts?.[1] ?? '', password };
}
