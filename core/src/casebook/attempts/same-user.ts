const userIn = (name: string): string => name.slice(name.lastIndexOf('\\') + 1).toLowerCase();

/** Whether two names are those of one account: logs put its domain before it, links mostly don’t. */
export const isSameUser = (one: string, other: string): boolean => userIn(one) === userIn(other);
