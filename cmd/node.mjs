/**
 * What Node.js is started with for the application and its benchmark: TypeScript as it is, and room for what a booking of
 * ten thousand rows makes and throws away (in MB; by default it is swept up several times meanwhile).
 */
export const NODE = ['--max-semi-space-size=64', '--import', 'tsx'];
