/** Publishing, releases and channels. */
import { documentChanges } from '../../core/document/index.js';
import { DEFAULT_LIMIT, onePage, pageOf } from '../handler.js';
import { instantOf } from '../instant.js';
import type { Handlers } from '../handler.js';
import { Problem } from '../problem.js';
import { revisionFit } from '../releases/releases.js';
import type { Service } from '../service.js';

function channelName(name: string): string {
  if (!/^[a-z][a-z0-9_-]{0,63}$/.test(name) || name === 'draft')
    throw new Problem(
      'bad-request',
      `"${name}" cannot be a channel: small letters, digits, _ and - (and "draft" is the draft).`,
    );
  return name;
}

/** The set time of a release, in the zone of the draft; undefined for at once. */
const setTime = ({ draft, now }: Service, at: string | undefined): number | undefined =>
  at === undefined || at === 'now' ? undefined : instantOf(at, draft.current.document.timeZone, now());

/** Waits for what has been scheduled. */
function armed<T>(service: Service, done: T): T {
  service.schedule.arm();
  return done;
}

export const releaseHandlers = {
  'POST /releases': ({ service, body: { note, channel = 'live', revision, at } }) => {
    const name = channelName(channel);
    const atMs = setTime(service, at);
    return {
      kind: 'publish',
      publishing: { note, channel: name, atMs, ...revisionFit(service, revision) },
    };
  },
  'GET /releases': ({ service, query: { cursor = Number.MAX_SAFE_INTEGER, limit = DEFAULT_LIMIT } }) => ({
    body: pageOf(service.releases.list(cursor, limit), limit, ({ number }) => number),
  }),
  'GET /releases/{release}': ({ service, params }) => {
    service.releases.mustExist(params.release);
    const release = service.releases.get(params.release)!;
    const before = service.releases.get(params.release - 1);
    return { body: { ...release, changes: before ? documentChanges(before.document, release.document) : [] } };
  },
  'GET /sources/{source}': ({ service, params }) => {
    const { release, document } = service.sources.of(params.source);
    const revision = release === null ? service.draft.current.revision : null;
    return { body: { release, revision, document } };
  },
  'GET /channels': ({ service }) => ({ body: onePage(service.channels.views()) }),
  'GET /channels/{channel}/moves': ({ service, params }) => ({
    body: onePage(service.channels.history(channelName(params.channel))),
  }),
  'PUT /channels/{channel}': async ({ service, who, params, body: { release, at, note = '' } }) => {
    const name = channelName(params.channel);
    const atMs = setTime(service, at);
    await service.releases.prepare(release);
    await service.writer
      .submit(() => service.channels.move(name, release, who.name, note, atMs))
      .then((done) => armed(service, done));
    return { body: service.channels.views().find((channel) => channel.name === name)! };
  },
  'DELETE /channels/{channel}/moves/{move}': async ({ service, who, params }) => ({
    body: await service.writer
      .submit(() => service.channels.cancel(channelName(params.channel), params.move, who.name))
      .then((done) => armed(service, done)),
  }),
  'DELETE /channels/{channel}': async ({ service, who, params, query: { anyway = false } }) => {
    const name = channelName(params.channel);
    await service.writer.submit(() => service.channels.remove(name, who.name, anyway));
    return { body: { deleted: name } };
  },
} satisfies Partial<Handlers>;
