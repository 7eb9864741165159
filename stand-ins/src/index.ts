export { startPlant } from './start-plant.js';
export type { RunningPlant } from './start-plant.js';
export { writeHandover } from './handover.js';
export type { Handover } from './handover.js';
