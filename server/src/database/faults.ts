/** True for errors that mean that the database can't be had now, and may come back. */
export function isDatabaseAway(error: unknown): boolean {
  for (let current: unknown = error; current instanceof Error; current = current.cause) {
    const code = 'code' in current ? String(current.code) : '';
    if (/^(ECONNREFUSED|ECONNRESET|EPIPE|57P0[1-3]|53300|08\w{3})$/.test(code)) return true;
    if (
      /connection terminated|timeout exceeded when trying to connect|Connection ended|Query read timeout|Client has encountered a connection error|not queryable/i.test(
        current.message,
      )
    )
      return true;
  }
  return false;
}

/** True where PostgreSQL has no space left (53100); a transaction that met this has changed nothing. */
export function isDiskFull(error: unknown): boolean {
  for (let current: unknown = error; current instanceof Error; current = current.cause)
    if ('code' in current && current.code === '53100') return true;
  return false;
}

/** True where a transaction gave way to another one (40001, 40P01): it has changed nothing. */
export function hasGivenWay(error: unknown): boolean {
  for (let current: unknown = error; current instanceof Error; current = current.cause)
    if ('code' in current && (current.code === '40001' || current.code === '40P01')) return true;
  return false;
}

/** True where PostgreSQL refused a value itself (class 22, data exception). */
export function isUnfitForDatabase(error: Error): boolean {
  for (let current: unknown = error; current instanceof Error; current = current.cause)
    if ('code' in current && /^22\w{3}$/.test(String(current.code))) return true;
  return false;
}
