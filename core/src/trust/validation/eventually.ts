/** What is there at once, or comes later: a promise costs more than most of what is done with it here. */
export type Eventually<Value> = Value | Promise<Value>;
