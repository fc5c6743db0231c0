/** Publish: findings, differences, a note, a channel and a time; and the way back. */
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import { client, useAudit, useCases, useChanges, useChannels, useDraft, useReleases } from '../api.js';
import { When } from '../fields/When.js';
import { BrokenCases, CaseCounts, brokenOnes } from '../parts/cases.js';
import { Counts, FindingList } from '../parts/findings.js';
import {
  Badge,
  Button,
  Choice,
  DataTable,
  Empty,
  Field,
  Input,
  Problem,
  Sheet,
  Waiting,
  instantWords,
} from '../parts/ui.js';
import { Channels } from '../publish/Channels.js';
import { DraftHistory } from '../publish/DraftHistory.js';

export default function Publish() {
  const draft = useDraft();
  const audit = useAudit();
  const cases = useCases();
  const [channel, setChannel] = useState('live');
  const [at, setAt] = useState('');
  const channels = useChannels().data?.items ?? [];
  const points = channels.find(({ name }) => name === channel)?.release;
  const changes = useChanges(points ? channel : 'live', at || undefined);
  const [note, setNote] = useState('');
  const queries = useQueryClient();
  const publish = useMutation({
    mutationFn: () =>
      client.call('POST /releases', { body: { note, revision: draft.data!.revision, channel, ...(at ? { at } : {}) } }),
    onSuccess: () => {
      setNote('');
      setAt('');
      return queries.invalidateQueries();
    },
  });
  if (!draft.data || !audit.data) return <Waiting />;
  const zone = draft.data.document.timeZone;
  const { counts, findings } = audit.data;
  const broken = brokenOnes(cases.data);
  const mayBreak = cases.data?.brokenCases === 'warn';
  const list = changes.data?.changes ?? [];
  const blocked =
    counts.error > 0
      ? `${counts.error} ${counts.error === 1 ? 'error stands' : 'errors stand'} against publishing`
      : broken.length > 0 && !mayBreak
        ? `${broken.length} ${broken.length === 1 ? 'case does' : 'cases do'} not hold`
        : list.length === 0
          ? `nothing differs from what is ${channel}`
          : note.trim() === ''
            ? 'write a note first'
            : undefined;
  const done = publish.data;
  return (
    <div className="flex flex-col gap-3">
      <h1 className="text-2xl">Publish</h1>
      <div className="grid items-start gap-3 lg:grid-cols-2">
        <Sheet title={`What draft ${draft.data.revision} changes`}>
          <Problem error={changes.error} />
          {list.length === 0 ? (
            <Empty>Nothing differs from what is {channel}.</Empty>
          ) : (
            <ul className="max-h-72 list-disc overflow-auto pl-5">
              {list.map(({ pointer, words }) => (
                <li key={pointer}>{words}</li>
              ))}
            </ul>
          )}
          <form
            className="mt-4 flex flex-col gap-2 border-t border-line pt-3"
            onSubmit={(event) => {
              event.preventDefault();
              if (!blocked) publish.mutate();
            }}
          >
            <Field label="Note: what is this release about?">
              {(id) => <Input id={id} value={note} onChange={(event) => setNote(event.target.value)} />}
            </Field>
            <div className="flex flex-wrap gap-3">
              <Field label="On the channel">
                {(id) => (
                  <Choice
                    id={id}
                    value={channel}
                    options={[...new Set(['live', ...channels.map(({ name }) => name)])].map((name) => ({
                      value: name,
                      label: name,
                    }))}
                    onChange={setChannel}
                  />
                )}
              </Field>
              <Field label="From (at once when empty)">
                {(id) => (
                  <When
                    id={id}
                    value={at === '' ? undefined : at}
                    withTime
                    zone={zone}
                    onKeep={(next) => setAt(next ?? '')}
                  />
                )}
              </Field>
            </div>
            <div className="flex flex-wrap items-center gap-3">
              <Button look="primary" type="submit" disabled={blocked !== undefined || publish.isPending}>
                {at ? `Publish to ${channel} at that time` : `Publish to ${channel}`}
              </Button>
              {blocked && <span className="text-sm text-soft">{blocked}</span>}
              {done && (
                <Badge tone="good">
                  {done.scheduled
                    ? `release ${done.number} will be ${done.channel} at ${instantWords(done.fromMs, zone)}`
                    : `release ${done.number} is ${done.channel}`}
                </Badge>
              )}
              {done && !done.scheduled && (
                <Link className="text-sm underline" to={`/shops?mode=look&source=${done.channel}`}>
                  See what players meet now
                </Link>
              )}
            </div>
            {done?.coming.map(({ move, release, atMs }) => (
              <p key={move} className="text-sm">
                <Badge tone="care">take care</Badge> release {release} is set to come on {done.channel} at{' '}
                {instantWords(atMs, zone)}, in place of what you see here.
              </p>
            ))}
            <Problem error={publish.error} />
          </form>
        </Sheet>
        <div className="flex flex-col gap-3">
          {broken.length > 0 && (
            <Sheet title="Cases" actions={<CaseCounts counts={cases.data!.counts} />}>
              <p className="text-sm text-soft">
                {mayBreak
                  ? 'The economy lets a release be made all the same.'
                  : 'No release is made while a case does not hold. Mend the draft, or change what must hold.'}
              </p>
              <BrokenCases cases={broken} />
            </Sheet>
          )}
          <Sheet title="Findings" actions={<Counts counts={counts} />}>
            <FindingList findings={findings} />
          </Sheet>
        </div>
      </div>
      <Channels zone={zone} />
      <Releases zone={zone} />
      <DraftHistory zone={zone} />
    </div>
  );
}

function Releases({ zone }: { zone: string }) {
  const releases = useReleases().data?.items ?? [];
  const channels = useChannels().data?.items ?? [];
  return (
    <Sheet title="Releases">
      {releases.length === 0 ? (
        <Empty>Nothing was published yet.</Empty>
      ) : (
        <DataTable
          label="Releases"
          rows={releases}
          rowKey={({ number }) => String(number)}
          columns={[
            { head: 'release', cell: ({ number }) => <strong>{number}</strong> },
            { head: 'note', cell: ({ note }) => note },
            { head: 'by', cell: ({ publishedBy }) => publishedBy },
            { head: 'made', cell: ({ publishedMs }) => instantWords(publishedMs, zone) },
            {
              head: 'on',
              cell: ({ number }) =>
                channels
                  .filter(({ release }) => release === number)
                  .map(({ name }) => (
                    <Badge key={name} tone="good">
                      {name}
                    </Badge>
                  )),
            },
          ]}
        />
      )}
    </Sheet>
  );
}
