export { csvText } from './csv.js';
export { guard, unguard } from './guard.js';
