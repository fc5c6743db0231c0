/** Cases for offers as they are now, as a table: what is not meant is struck out, the rest is kept. */
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { EconomyDocument } from '../../core/document/index.js';
import { client } from '../api.js';
import { When } from '../fields/When.js';
import { Many } from '../fields/Many.js';
import { nameables } from '../fields/nameable.js';
import { useEdits } from '../parts/edits.js';
import { useParam } from '../parts/search.js';
import { addOperations } from '../parts/step.js';
import { Button, DataTable, Empty, Field, Problem, Waiting, Window } from '../parts/ui.js';

/** Before the id of a shop, which stands for all of its offers. */
const ALL_OF = 'all of ';

export function CaseProposals({ document }: { document: EconomyDocument }) {
  const [asked, setAsked] = useParam('propose', '');
  return (
    <>
      <Button onClick={() => setAsked('-')}>Propose cases ...</Button>
      {asked !== '' && <ProposalWindow document={document} asked={asked} onAsk={setAsked} />}
    </>
  );
}

function ProposalWindow({
  document,
  asked,
  onAsk,
}: {
  document: EconomyDocument;
  /** Ids of offers with commas between them; a dash where none is picked yet. */
  asked: string;
  onAsk: (asked: string) => void;
}) {
  const { apply } = useEdits();
  const [at, setAt] = useState<string>();
  const [struck, setStruck] = useState<ReadonlySet<string>>(new Set());
  const offers = asked.split(',').filter((id) => id !== '-' && id !== '');
  const proposed = useQuery({
    queryKey: ['proposals', offers, at, document],
    queryFn: () => client.call('POST /cases/proposals', { body: { offers, ...(at === undefined ? {} : { at }) } }),
    enabled: offers.length > 0,
    retry: false,
  });
  const items = proposed.data?.items ?? [];
  const isThere = (id: string): boolean => document.cases?.[id] !== undefined;
  const kept = items.filter(({ id }) => !struck.has(id) && !isThere(id));
  const keep = (): void => {
    const [first, ...others] = kept.flatMap(({ id, case: one }) => addOperations(document, 'cases', id, one));
    // The section is there once.
    const once = others.filter(({ path }) => path !== '/cases');
    apply({ operations: [first!, ...once] });
    onAsk('');
  };
  const shops = Object.entries(document.shops ?? {}).map(([id, { name }]) => ({
    id: `${ALL_OF}${id}`,
    label: `all of ${name}`,
    hint: 'shop',
  }));
  const offersOf = (id: string): string[] =>
    Object.values(document.shops?.[id]?.shelves ?? {}).flatMap((shelf) => Object.keys(shelf.offers));
  const pick = (ids: readonly string[] = []): void => {
    const all = ids.flatMap((id) => (id.startsWith(ALL_OF) ? offersOf(id.slice(ALL_OF.length)) : [id]));
    onAsk([...new Set(all)].join(',') || '-');
  };
  const toggle = (id: string): void => {
    const after = new Set(struck);
    if (!after.delete(id)) after.add(id);
    setStruck(after);
  };
  return (
    <Window title="Propose cases" open wide onClose={() => onAsk('')}>
      <div className="flex flex-col gap-3">
        <Many
          label="For offers"
          help="One short, exactly enough, one over; once more, the day after, full, and somebody whom it is not for."
          options={[...nameables(document, 'offer', []), ...shops]}
          word="offer"
          value={offers}
          onKeep={pick}
        />
        <Field label="At (now when empty; where it is not on sale then, when it is next)">
          {(id) => <When id={id} value={at} withTime zone={document.timeZone} onKeep={setAt} />}
        </Field>
        <Problem error={proposed.error} />
        {proposed.isFetching && <Waiting />}
        {(proposed.data?.none.length ?? 0) > 0 && (
          <p className="text-sm">
            For {proposed.data!.none.join(', ')} there is none: it is paid with real money, or nobody can buy it.
          </p>
        )}
        {proposed.data && items.length > 0 && (
          <>
            <p className="text-sm text-soft">
              This is what the draft does now. Strike out what is not meant: what is kept must hold from now on.
            </p>
            <DataTable
              label="Proposed cases"
              rows={items}
              rowKey={({ id }) => id}
              columns={[
                {
                  head: 'keep',
                  cell: ({ id, case: { name } }) =>
                    isThere(id) ? (
                      <span className="text-sm text-soft">is there</span>
                    ) : (
                      <input
                        type="checkbox"
                        aria-label={`Keep ${name}`}
                        checked={!struck.has(id)}
                        onChange={() => toggle(id)}
                      />
                    ),
                },
                {
                  head: 'case',
                  cell: ({ id, case: { name } }) => (
                    <span className={struck.has(id) ? 'text-soft line-through' : 'font-semibold'}>{name}</span>
                  ),
                },
                { head: 'who, and what comes of it', cell: ({ lines }) => lines.join('; ') },
              ]}
            />
          </>
        )}
        {offers.length === 0 && <Empty>Pick an offer, or all of a shop.</Empty>}
        <div className="flex justify-end gap-2">
          <Button onClick={() => onAsk('')}>Cancel</Button>
          <Button look="primary" disabled={kept.length === 0} onClick={keep}>
            Keep {kept.length} {kept.length === 1 ? 'case' : 'cases'}
          </Button>
        </div>
      </div>
    </Window>
  );
}
