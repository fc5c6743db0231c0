export { integrityCheck } from './store/integrity.js';
export type { IntegrityReport } from './store/integrity.js';
export { packageRoot } from '../packageRoot.js';
export { StartProblem, serviceStart } from './listen.js';
export type { Listening } from './listen.js';
export { serviceCreate } from './service.js';
export type { Service, ServiceOptions } from './service.js';
export { DatabaseProblem, databaseOpen } from './store/database.js';
