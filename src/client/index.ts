export { ApiProblem, Client, Unreachable } from './client.js';
export type { ClientOptions, FrontQuery, PageQuery, ReportedEvent } from './client.js';
