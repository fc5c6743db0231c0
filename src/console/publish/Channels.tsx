/** Channels: where each points, what is to come on it, and the way back. */
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { ChannelView, MoveView } from '../../contract/index.js';
import { client, useChannels, useReleases } from '../api.js';
import { When } from '../fields/When.js';
import { Ask } from '../parts/Ask.js';
import { BrokenIn } from '../parts/cases.js';
import { Badge, Button, Choice, DataTable, Empty, Field, Input, Problem, Sheet, instantWords } from '../parts/ui.js';

export function Channels({ zone }: { zone: string }) {
  const channels = useChannels().data?.items ?? [];
  return (
    <Sheet title="Channels">
      {channels.length === 0 ? (
        <Empty>No channel points at a release yet. Publish the draft above.</Empty>
      ) : (
        <DataTable
          label="Channels"
          rows={channels}
          rowKey={({ name }) => name}
          columns={[
            { head: 'channel', cell: ({ name }) => <strong>{name}</strong> },
            {
              head: 'release',
              cell: ({ release }) => (release === null ? 'none yet' : <Badge tone="good">release {release}</Badge>),
            },
            {
              head: 'since',
              cell: ({ changedMs, changedBy }) =>
                changedMs === null ? '' : `${instantWords(changedMs, zone)}, ${changedBy}`,
            },
            { head: 'to come', cell: (channel) => <Coming channel={channel} zone={zone} /> },
            { head: '', cell: (channel) => <Back channel={channel} zone={zone} />, right: true },
          ]}
        />
      )}
      <PointOther channels={channels} zone={zone} />
    </Sheet>
  );
}

function Coming({ channel: { name, coming }, zone }: { channel: ChannelView; zone: string }) {
  return (
    <ul className="flex flex-col gap-1">
      {coming.map(({ move, release, atMs }) => (
        <li key={move} className="flex items-center gap-2">
          <span>
            <Badge tone="care">release {release}</Badge> {instantWords(atMs, zone)} <BrokenIn release={release} />
          </span>
          <Ask
            label="Cancel"
            title={`Take release ${release} back from ${name}?`}
            does={`It will not come on ${name} at ${instantWords(atMs, zone)}. The release itself stays.`}
            yes="Take it back"
            act={() => client.call('DELETE /channels/{channel}/moves/{move}', { params: { channel: name, move } })}
          />
        </li>
      ))}
    </ul>
  );
}

/** The release before, in one act. */
function Back({ channel: { name, release, coming }, zone }: { channel: ChannelView; zone: string }) {
  const { data } = useQuery({
    queryKey: ['moves', name],
    queryFn: () => client.call('GET /channels/{channel}/moves', { params: { channel: name } }),
  });
  const ahead = new Set(coming.map(({ move }) => move));
  const before = data?.items.find(
    (one: MoveView) => one.endedMs === null && !ahead.has(one.move) && one.release !== release,
  );
  return (
    <span className="flex justify-end gap-2">
      {before && (
        <Ask
          label={`Go back to release ${before.release}`}
          title={`Go back to release ${before.release} on ${name}?`}
          does={`Its prices and offers hold from the next moment on; what rotations have on show stays until their period ends. It was there from ${instantWords(before.atMs, zone)}.`}
          yes={`Make release ${before.release} ${name}`}
          act={() =>
            client.call('PUT /channels/{channel}', {
              params: { channel: name },
              body: { release: before.release, note: 'gone back' },
            })
          }
        />
      )}
      {name !== 'live' && (
        <Ask
          label="Delete"
          title={`Delete the channel ${name}?`}
          does="Games that read it would get an error. The releases stay."
          yes="Delete it"
          act={() => client.call('DELETE /channels/{channel}', { params: { channel: name } })}
        />
      )}
    </span>
  );
}

/** Any channel, a new one too, at any release, at once or from a set time. */
function PointOther({ channels, zone }: { channels: readonly ChannelView[]; zone: string }) {
  const releases = useReleases().data?.items ?? [];
  const queries = useQueryClient();
  const [name, setName] = useState('');
  const [release, setRelease] = useState('');
  const [at, setAt] = useState('');
  const point = useMutation({
    mutationFn: () =>
      client.call('PUT /channels/{channel}', {
        params: { channel: name },
        body: { release: Number(release), ...(at ? { at } : {}) },
      }),
    onSuccess: () => {
      setName('');
      setAt('');
      return queries.invalidateQueries();
    },
  });
  if (releases.length === 0) return null;
  return (
    <form
      className="mt-3 flex flex-wrap items-end gap-2 border-t border-line pt-3"
      onSubmit={(event) => {
        event.preventDefault();
        point.mutate();
      }}
    >
      <Field label="Channel, such as test or phone">
        {(id) => (
          <Input id={id} list="channel-names" value={name} onChange={(event) => setName(event.target.value.trim())} />
        )}
      </Field>
      <datalist id="channel-names">
        {channels.map((channel) => (
          <option key={channel.name} value={channel.name} />
        ))}
      </datalist>
      <Field label="Release">
        {(id) => (
          <Choice
            id={id}
            value={release}
            options={releases.map(({ number, note }) => ({ value: String(number), label: `${number}: ${note}` }))}
            onChange={setRelease}
          />
        )}
      </Field>
      <Field label="From (at once when empty)">
        {(id) => (
          <When id={id} value={at === '' ? undefined : at} withTime zone={zone} onKeep={(next) => setAt(next ?? '')} />
        )}
      </Field>
      <Button type="submit" disabled={name === '' || release === '' || point.isPending}>
        Point the channel
      </Button>
      <Problem error={point.error} />
    </form>
  );
}
