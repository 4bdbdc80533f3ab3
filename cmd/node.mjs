import { join } from 'node:path';

/**
 * What Node.js is started with for the application and its benchmark: room for what a booking of ten thousand rows makes and
 * throws away (in MB; by default it is swept up several times meanwhile).
 */
const ROOM = '--max-semi-space-size=32';
/** What runs TypeScript as it is. */
export const TYPESCRIPT = ['--import', 'tsx'];
/** What runs a benchmark, which is TypeScript. */
export const BENCH = [ROOM, ...TYPESCRIPT];
/** What starts the application as it is built. @param {string} build the folder */
export const application = (build) => [ROOM, join(build, 'run', 'start.js')];
