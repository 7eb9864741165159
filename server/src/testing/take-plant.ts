/**
 * Several made-up plants stand side by side, each with a database and a server of its own; each of Jest’s workers takes
 * one. Run before the tests of a file.
 */
const plants = JSON.parse(process.env['HINGE_TEST_PLANTS'] ?? '[]') as Readonly<Record<string, string>>[];
const worker = Number(process.env['JEST_WORKER_ID'] ?? '1');
Object.assign(process.env, plants[(worker - 1) % Math.max(plants.length, 1)]);
