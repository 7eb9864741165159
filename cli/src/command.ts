export interface Out {
  write(text: string): unknown;
}

export interface Command {
  readonly usage: string;
  run(args: readonly string[], out: Out, errors: Out): Promise<number>;
}
