import type { EconomyDocument } from '../../core/document/index.js';

/** Something to begin with in each field of an event: an activity draws all of them, and so does a try. */
export const eventFields = ({ events }: EconomyDocument, id: string): Record<string, number | string> =>
  Object.fromEntries(
    Object.entries(events?.[id]?.fields ?? {}).map(([field, type]) => [field, type === 'number' ? 1 : 'any']),
  );
