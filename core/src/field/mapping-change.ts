/** From where a server reads an item, as somebody sets it in the server’s own configuration. Nobody sets it from afar. */
export interface MappingChange {
  readonly kind: 'set-mapping';
  readonly serverId: string;
  /** The item. */
  readonly path: string;
  /** What the server reads now, and what it should, each as `unit 1, holding register 40011, 16-bit integer × 0.1`. */
  readonly before: string;
  readonly after: string;
}

/** The change that takes it back. */
export const undoOfMapping = (change: MappingChange): MappingChange => ({
  ...change,
  before: change.after,
  after: change.before,
});

/** A change in words. @param server its name */
export const sayMappingChange = ({ path, before, after }: MappingChange, server: string) => ({
  title: `Set the register of ${path} at ${server}`,
  target: server,
  before,
  after,
  undo: `Set ${before} again.`,
});
