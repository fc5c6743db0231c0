export { ApiProblem, Client, Unreachable } from './client.js';
export type { ClientOptions, CalendarQuery, FrontQuery, PageQuery, ReportedEvent, RotationChange } from './client.js';
