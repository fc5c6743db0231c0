/** Overview: what is live, what waits in the draft, what the audit says, and how the last run stands. */
import { useQuery } from '@tanstack/react-query';
import { Suspense, lazy } from 'react';
import { Link } from 'react-router';
import { marksText } from '../../core/simulation/report.js';
import { client, useAudit, useCases, useChanges, useChannels, useDraft, useReleases, useRuns } from '../api.js';
import { BrokenCases, CaseCounts, brokenOnes } from '../parts/cases.js';
import { Counts, FindingList, foremost } from '../parts/findings.js';
import { Badge, DataTable, Empty, Sheet, Waiting, instantWords } from '../parts/ui.js';
import { Way } from '../overview/Way.js';

/** Needed once in the life of an economy. */
const Begin = lazy(() => import('../overview/Begin.js'));

/** What rotating shelves have on show now and next, and what is to come on live. */
function OnShow({ zone }: { zone: string | undefined }) {
  const live = useChannels().data?.items.find(({ name }) => name === 'live');
  const coming = live?.coming ?? [];
  const now = useQuery({
    queryKey: ['rotations', 'now'],
    queryFn: () => client.call('GET /rotations'),
    retry: false,
    // Where nothing is live there is nothing to ask about.
    enabled: typeof live?.release === 'number',
  }).data?.items;
  const at = now && now.length > 0 ? new Date(Math.min(...now.map(({ endMs }) => endMs))).toISOString() : '';
  const next = useQuery({
    queryKey: ['rotations', at],
    queryFn: () => client.call('GET /rotations', { query: { at } }),
    enabled: at !== '',
  }).data?.items;
  if (!now || (now.length === 0 && coming.length === 0)) return null;
  const names = (shown: readonly { name: string }[] | undefined) => shown?.map(({ name }) => name).join(', ') ?? '';
  return (
    <Sheet
      title="On show now and next"
      actions={
        <Link className="text-copper underline" to="/calendar?source=live">
          Calendar ...
        </Link>
      }
    >
      <DataTable
        label="On show now and next"
        rows={now}
        rowKey={({ shop, shelf }) => `${shop}/${shelf}`}
        columns={[
          { head: 'shelf', cell: ({ name }) => name },
          { head: 'now', cell: ({ shown }) => names(shown) },
          { head: 'until', cell: ({ endMs }) => instantWords(endMs, zone) },
          {
            head: 'then',
            cell: ({ shop, shelf }) => names(next?.find((one) => one.shop === shop && one.shelf === shelf)?.shown),
          },
        ]}
      />
      {coming.map(({ move, release, atMs }) => (
        <p key={move} className="mt-1">
          <Badge tone="care">release {release}</Badge> comes on live at {instantWords(atMs, zone)}
        </p>
      ))}
    </Sheet>
  );
}

export function Overview() {
  const draft = useDraft();
  const zone = draft.data?.document.timeZone;
  if (!draft.data) return <Waiting />;
  const { document } = draft.data;
  const shops = Object.entries(document.shops ?? {});
  const isEmpty = [document.currencies, document.items, document.shops].every((section) => section === undefined);
  return (
    <div className="flex flex-col gap-3">
      <h1 className="text-2xl">{document.name}</h1>
      <Way document={document} />
      {isEmpty && (
        <Suspense fallback={<Waiting />}>
          <Begin document={document} revision={draft.data.revision} />
        </Suspense>
      )}
      <div className="grid items-start gap-3 lg:grid-cols-2">
        <div className="flex min-w-0 flex-col gap-3">
          <Live zone={zone} />
          <Findings />
          <Runs zone={zone} />
        </div>
        <div className="flex min-w-0 flex-col gap-3">
          <Waits />
          <Cases />
        </div>
      </div>
      <OnShow zone={zone} />
      <Sheet title="In the stall">
        {shops.length === 0 ? (
          <Empty>
            No shop yet.{' '}
            <Link className="underline" to="/shops?mode=arrange">
              Make the first one
            </Link>
            , or bring in a folder with: dimestall push FOLDER.
          </Empty>
        ) : (
          <DataTable
            label="Shops"
            rows={shops}
            rowKey={([id]) => id}
            columns={[
              {
                head: 'shop',
                cell: ([id, shop]) => (
                  <Link className="font-semibold text-copper underline" to={`/shops?shop=${id}`}>
                    {shop.icon} {shop.name}
                  </Link>
                ),
              },
              {
                head: 'shelves',
                cell: ([, shop]) =>
                  Object.values(shop.shelves)
                    .map(({ name }) => name)
                    .join(', '),
              },
              {
                head: 'offers',
                right: true,
                cell: ([, shop]) =>
                  Object.values(shop.shelves).reduce((sum, { offers }) => sum + Object.keys(offers).length, 0),
              },
              { head: 'for', cell: ([, shop]) => (shop.when ? <code>{shop.when}</code> : 'everyone') },
            ]}
          />
        )}
        <p className="mt-2 text-soft">
          {Object.keys(document.items ?? {}).length} items, {Object.keys(document.currencies ?? {}).length} currencies,{' '}
          {Object.keys(document.earning ?? {}).length} earning rules, {Object.keys(document.scenarios ?? {}).length}{' '}
          scenarios
        </p>
      </Sheet>
    </div>
  );
}

function Live({ zone }: { zone: string | undefined }) {
  const live = useChannels().data?.items.find(({ name }) => name === 'live');
  const release = useReleases().data?.items.find(({ number }) => number === live?.release);
  return (
    <Sheet title="Live now">
      {release ? (
        <>
          <p className="font-display text-2xl">Release {release.number}</p>
          <p>{release.note}</p>
          <p className="text-sm text-soft">
            by {release.publishedBy}, {instantWords(release.publishedMs, zone)}
          </p>
        </>
      ) : (
        <Empty>
          Nothing is live. Look through the draft, then{' '}
          <Link className="underline" to="/publish">
            publish it
          </Link>
          .
        </Empty>
      )}
    </Sheet>
  );
}

function Waits() {
  const changes = useChanges();
  const isLive = useChannels().data?.items.some(({ name }) => name === 'live') ?? false;
  const list = changes.data?.changes ?? [];
  return (
    <Sheet
      title="Waiting in the draft"
      actions={
        <Link className="font-semibold text-copper underline" to="/publish">
          Publish ...
        </Link>
      }
    >
      {list.length === 0 ? (
        <Empty>
          {isLive ? 'The draft is the same as what is live.' : 'Nothing is live yet: all of the draft is new.'} Change a
          price in the{' '}
          <Link className="underline" to="/catalog">
            catalog
          </Link>
          .
        </Empty>
      ) : (
        <>
          <ul className="list-disc pl-5">
            {list.slice(0, 6).map(({ pointer, words }) => (
              <li key={pointer}>{words}</li>
            ))}
          </ul>
          {list.length > 6 && <p className="text-soft">and {list.length - 6} more</p>}
        </>
      )}
    </Sheet>
  );
}

function Findings() {
  const audit = useAudit();
  return (
    <Sheet title="Findings" actions={audit.data && <Counts counts={audit.data.counts} />}>
      {audit.data ? <FindingList findings={foremost(audit.data.findings, 5)} /> : <Waiting />}
    </Sheet>
  );
}

function Cases() {
  const view = useCases().data;
  const broken = brokenOnes(view);
  return (
    <Sheet
      title="Cases"
      actions={
        <span className="flex items-baseline gap-3">
          {view && <CaseCounts counts={view.counts} />}
          <Link className="font-semibold text-copper underline" to="/shops?mode=cases">
            Cases ...
          </Link>
        </span>
      }
    >
      {!view ? (
        <Waiting />
      ) : view.cases.length === 0 ? (
        <Empty>
          Nothing must hold yet.{' '}
          <Link className="underline" to="/shops?mode=rehearse">
            Rehearse
          </Link>{' '}
          what matters, and keep it.
        </Empty>
      ) : broken.length === 0 ? (
        <Empty>All hold on the draft.</Empty>
      ) : (
        <>
          <BrokenCases cases={broken.slice(0, MOST_BROKEN)} brief />
          {broken.length > MOST_BROKEN && <p className="text-soft">and {broken.length - MOST_BROKEN} more</p>}
        </>
      )}
    </Sheet>
  );
}

/** More are told in their own room. */
const MOST_BROKEN = 3;

const STATUS = { done: 'good', failed: 'bad', running: 'care', waiting: 'quiet', cancelled: 'quiet' } as const;

function Runs({ zone }: { zone: string | undefined }) {
  const runs = useRuns().data?.items ?? [];
  return (
    <Sheet
      title="Last runs"
      actions={
        <Link className="font-semibold text-copper underline" to="/simulate">
          Simulate ...
        </Link>
      }
    >
      {runs.length === 0 ? (
        <Empty>
          No simulation yet.{' '}
          <Link className="underline" to="/simulate">
            Let players play for a month
          </Link>
          .
        </Empty>
      ) : (
        <DataTable
          label="Last runs"
          rows={runs.slice(0, 5)}
          rowKey={({ id }) => String(id)}
          columns={[
            {
              head: 'run',
              cell: ({ id, name }) => (
                <Link className="text-copper underline" to={`/simulate?run=${id}`}>
                  {id}: {name}
                </Link>
              ),
            },
            { head: 'status', cell: ({ status }) => <Badge tone={STATUS[status]}>{status}</Badge> },
            {
              head: 'targets',
              cell: ({ marks }) =>
                marks && marksText(marks) !== '' ? (
                  <Badge tone={marks.missed > 0 ? 'bad' : marks.open > 0 ? 'care' : 'good'}>{marksText(marks)}</Badge>
                ) : (
                  ''
                ),
            },
            { head: 'when', cell: ({ createdMs }) => instantWords(createdMs, zone) },
          ]}
        />
      )}
    </Sheet>
  );
}
