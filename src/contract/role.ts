/** Who may do what. */
import { anyText, choice, record } from '../core/schema/index.js';
import type { ValueOf } from '../core/schema/index.js';

/** Each role with the roles whose work it may do too. */
export const ROLES = {
  read: ['read'],
  game: ['game', 'read'],
  design: ['design', 'read'],
  publish: ['publish', 'design', 'read'],
  support: ['support', 'read'],
  admin: ['admin', 'publish', 'design', 'support', 'game', 'read'],
} as const satisfies Record<string, readonly string[]>;
export type Role = keyof typeof ROLES;
export const ROLE_NAMES = Object.keys(ROLES) as [Role, ...Role[]];

export const roleMay = (role: Role, needed: Role): boolean => (ROLES[role] as readonly Role[]).includes(needed);

/** Who a token or a session belongs to. */
export const identity = record({ name: anyText(), role: choice(...ROLE_NAMES) });
export type Identity = ValueOf<typeof identity>;
