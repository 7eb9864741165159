/** A reason not to start that its owner can do something about: said as it is. */
export class StartRefusal extends Error {}
