export { ROLES } from './access.js';
export type { Role } from './access.js';
export { integrityCheck } from './integrity.js';
export type { IntegrityReport } from './integrity.js';
export { packageRoot } from './packageRoot.js';
export { ROUTES } from './routes/index.js';
export { StartProblem, serviceCreate, serviceStart } from './service.js';
export type { Listening, Service, ServiceOptions } from './service.js';
export { DatabaseProblem, databaseOpen } from './store/database.js';
