/** Signs somebody in; the headers that every later request carries. */
export async function signedIn(url, { name, password }) {
  const json = { 'content-type': 'application/json' };
  const answer = await fetch(`${url}/api/session`, {
    method: 'POST',
    headers: json,
    body: JSON.stringify({ name, password }),
  });
  if (!answer.ok) throw new Error(`nobody could sign in: ${await answer.text()}`);
  const { token } = await answer.json();
  return { ...json, cookie: answer.headers.get('set-cookie').split(';')[0], 'x-hinge-token': token };
}
