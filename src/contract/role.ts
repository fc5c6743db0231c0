/** Who may do what. */
import { anyText, choice, record } from '../core/schema/index.js';
import type { ValueOf } from '../core/schema/index.js';

/** Each role with the roles whose work it may do too. */
export const ROLES = {
  /** Of a calendar program, which sends no header: its token stands in an address. */
  calendar: ['calendar'],
  read: ['read', 'calendar'],
  game: ['game', 'read', 'calendar'],
  design: ['design', 'read', 'calendar'],
  publish: ['publish', 'design', 'read', 'calendar'],
  support: ['support', 'read', 'calendar'],
  admin: ['admin', 'publish', 'design', 'support', 'game', 'read', 'calendar'],
} as const satisfies Record<string, readonly string[]>;
export type Role = keyof typeof ROLES;
export const ROLE_NAMES = Object.keys(ROLES) as [Role, ...Role[]];

export const roleMay = (role: Role, needed: Role): boolean => (ROLES[role] as readonly Role[]).includes(needed);

/** Who a token or a session belongs to. */
export const identity = record({ name: anyText(), role: choice(...ROLE_NAMES) });
export type Identity = ValueOf<typeof identity>;
