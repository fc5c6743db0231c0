/** The places of a ranking as they are now, by the release that is live. */
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { PlacedRow } from '../../contract/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { amountText, documentLabels } from '../../core/texts/amounts.js';
import { client, useSource } from '../api.js';
import { Button, DataTable, Empty, Problem, Sheet, instantWords } from '../parts/ui.js';

const PAGE = 20;

export function Places({ document, ranking, name }: { document: EconomyDocument; ranking: string; name: string }) {
  /** Where the pages before this one ended. */
  const [cursors, setCursors] = useState<string[]>([]);
  const cursor = cursors.at(-1);
  const isLive = useSource('live').data?.rankings?.[ranking] !== undefined;
  const { data, error } = useQuery({
    enabled: isLive,
    queryKey: ['places', ranking, cursor],
    queryFn: () =>
      client.call('GET /rankings/{ranking}', {
        params: { ranking },
        query: { limit: PAGE, ...(cursor === undefined ? {} : { cursor }) },
      }),
    placeholderData: keepPreviousData,
  });
  const labels = documentLabels(document);
  return (
    <Sheet title={`Places in ${name}`}>
      {!isLive && <Empty>It ranks from the release on in which it is published.</Empty>}
      <Problem error={error} />
      {data !== undefined && data.endMs !== null && (
        <p className="mb-2 text-sm text-soft">
          It begins anew at {instantWords(data.endMs, document.timeZone)}; {data.of} have a place.
        </p>
      )}
      {data?.items.length === 0 && <Empty>Nobody has a place yet.</Empty>}
      {data && data.items.length > 0 && (
        <DataTable<PlacedRow>
          label={`Places in ${name}`}
          rows={data.items}
          rowKey={({ who }) => who}
          columns={[
            { head: 'place', right: true, cell: ({ place }) => place },
            { head: data.team === null ? 'player' : 'team', cell: (one) => <strong>{one.name}</strong> },
            { head: 'id', cell: ({ who }) => who },
            {
              head: 'score',
              right: true,
              cell: ({ score }) =>
                data.money === null ? score.toLocaleString('en') : amountText(labels, data.money, score),
            },
          ]}
        />
      )}
      {(cursors.length > 0 || data?.next) && (
        <p className="mt-2 flex gap-2">
          <Button disabled={cursors.length === 0} onClick={() => setCursors(cursors.slice(0, -1))}>
            Before
          </Button>
          <Button disabled={!data?.next} onClick={() => setCursors([...cursors, data!.next!])}>
            Next
          </Button>
        </p>
      )}
    </Sheet>
  );
}
