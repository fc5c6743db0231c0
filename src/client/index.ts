export { ApiProblem, Client, Unreachable } from './client.js';
export type { ClientOptions } from './client.js';
export { purchasesRecorded } from './purchases.js';
