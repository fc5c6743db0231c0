/** Edits of the draft in the console: what is shown at once, and the way back. */
import fc from 'fast-check';
import fastJsonPatch from 'fast-json-patch';
import type { Operation } from 'fast-json-patch';
import { addOperations, operationsApply } from '../../src/console/parts/step.js';
import type { EconomyDocument } from '../../src/core/document/index.js';
import { demoDocument, documentOf } from '../support/economy.js';

const written = documentOf(`
audit: {silenced: {'icon /items/tail~wax': A reason}}
currencies: {shells: {name: Shells}, pearls: {name: Pearls}}
items:
  tail: {name: Tail, kind: durable, tags: [a, b, c], worth: {shells: 15}}
  wax: {name: Wax, kind: consumable, worth: {shells: 5}, properties: {odd: [1, [2, 3]]}}
shops: {stall: {name: Stall, shelves: {main: {name: Main, offers: {wax: {gives: wax, price: [{shells: 5}, {pearls: 6}]}}}}}}
`);
const small = (): EconomyDocument => structuredClone(written);

/** Every place within a value: its pointer, and whether it is an entry of a list. */
function places(value: unknown, pointer = ''): { path: string; listed: boolean }[] {
  if (typeof value !== 'object' || value === null) return [];
  return Object.entries(value).flatMap(([key, inner]) => {
    const path = `${pointer}/${key.replace(/~/g, '~0').replace(/\//g, '~1')}`;
    return [{ path, listed: Array.isArray(value) }, ...places(inner, path)];
  });
}

/** The document after one operation, worked out on a copy; undefined where it cannot be done there. */
function tried(document: EconomyDocument, operation: Operation): EconomyDocument | undefined {
  try {
    return fastJsonPatch.applyPatch(structuredClone(document), [structuredClone(operation)], true).newDocument;
  } catch {
    return undefined;
  }
}

test('whatever is changed, added, removed or moved, the way back leads to what was', () => {
  const edit = fc.record({
    act: fc.constantFrom('replace' as const, 'remove' as const, 'add' as const, 'move' as const),
    place: fc.nat(),
    to: fc.nat(),
    value: fc.jsonValue({ maxDepth: 2 }),
  });
  const seen = new Set<string>();
  fc.assert(
    fc.property(fc.array(edit, { minLength: 1, maxLength: 8 }), (edits) => {
      const before = small();
      const operations: Operation[] = [];
      let now = before;
      for (const { act, place, to, value } of edits) {
        const here = places(now);
        const { path } = here[place % here.length]!;
        const target = here[to % here.length]!;
        const beside = `${target.path.slice(0, target.path.lastIndexOf('/'))}/${target.listed ? 0 : 'moved'}`;
        if (act === 'move' && `${beside}/`.startsWith(`${path}/`)) continue;
        const operation: Operation =
          act === 'remove'
            ? { op: act, path }
            : act === 'move'
              ? { op: act, from: path, path: beside }
              : { op: act, path, value };
        const after = tried(now, operation);
        if (!after) continue;
        seen.add(act);
        operations.push(operation);
        now = after;
      }
      const changed = operationsApply(before, operations);
      expect(changed.document).toEqual(now);
      // What was given stays as it is: what is drawn from it must not change unseen.
      expect(before).toEqual(small());
      expect(operationsApply(changed.document, changed.back).document).toEqual(before);
    }),
    { numRuns: 500 },
  );
  expect([...seen].sort()).toEqual(['add', 'move', 'remove', 'replace']);
});

test('only what an edit touches is copied', () => {
  const before = demoDocument();
  const { document } = operationsApply(before, [{ op: 'replace', path: '/items/oak_reel/worth/shells', value: 1 }]);
  expect(document.items!['oak_reel']!.worth).toEqual({ shells: 1 });
  expect(before.items!['oak_reel']!.worth).toEqual({ shells: 200 });
  expect(document.items!['glide_wax']).toBe(before.items!['glide_wax']);
  expect(document.shops).toBe(before.shops);
});

test('the first thing of a section brings the section, and the way back takes both', () => {
  const before = small();
  const { document, back } = operationsApply(before, addOperations(before, 'sales', 'spring', { name: 'Spring' }));
  expect(document.sales).toEqual({ spring: { name: 'Spring' } });
  expect(operationsApply(document, back).document).not.toHaveProperty('sales');
  expect(addOperations(document, 'sales', 'autumn', {})).toEqual([{ op: 'add', path: '/sales/autumn', value: {} }]);
});
