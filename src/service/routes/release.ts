/** Publishing, releases and channels. */
import { documentChanges } from '../../core/document/index.js';
import { fields, text, wholeNumber } from '../../core/schema/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { Problem } from '../problem.js';
import { PAGE_QUERY, bodyOf, instantOf, pageLimit, pageOf, queryNumber } from '../route.js';
import type { Route } from '../route.js';
import type { Service } from '../service.js';

const publishBody = fields({
  note: text(2000).required(),
  channel: text(64),
  revision: wholeNumber(1, Number.MAX_SAFE_INTEGER),
  at: text(40),
});
const channelBody = fields({
  release: wholeNumber(1, Number.MAX_SAFE_INTEGER).required(),
  at: text(40),
  note: text(2000),
});

function channelName(name: string): string {
  if (!/^[a-z][a-z0-9_-]{0,63}$/.test(name) || name === 'draft')
    throw new Problem(
      'bad-request',
      `"${name}" cannot be a channel: small letters, digits, _ and - (and "draft" is the draft).`,
    );
  return name;
}

/** The set time of a release, in the zone of the draft; undefined for at once. */
const setTime = ({ economies, now }: Service, at: string | undefined): number | undefined =>
  at === undefined || at === 'now' ? undefined : instantOf(at, economies.draft().document.timeZone, now());

/** Waits for what has been scheduled. */
function armed<T>(service: Service, done: T): T {
  service.schedule.arm();
  return done;
}

const numberOf = (written: string): number => {
  if (!/^\d{1,9}$/.test(written)) throw new Problem('not-found', `There is no release "${written}".`);
  return Number(written);
};

export const releaseRoutes: Route[] = [
  {
    method: 'post',
    path: '/releases',
    needs: 'publish',
    summary: 'Publishes the draft as a numbered release and points a channel at it',
    body: publishBody,
    handle: async (incoming) => {
      const { service, who } = incoming;
      const {
        note,
        channel = 'live',
        revision,
        at,
      } = bodyOf<{ note: string; channel?: string; revision?: number; at?: string }>(incoming);
      const name = channelName(channel);
      const atMs = setTime(service, at);
      const release = await service.writer
        .submit(() => service.economies.publish(revision, note, name, who.name, atMs))
        .then((done) => armed(service, done));
      return { status: 201, body: release, headers: { Location: `/api/v1/releases/${release.number}` } };
    },
  },
  {
    method: 'get',
    path: '/releases',
    needs: 'read',
    summary: 'Releases, newest first',
    query: PAGE_QUERY,
    handle: ({ service, query }) => {
      const limit = pageLimit(query);
      return {
        body: pageOf(
          service.economies.releases(
            queryNumber(query, 'cursor', Number.MAX_SAFE_INTEGER, 0, Number.MAX_SAFE_INTEGER),
            limit,
          ),
          limit,
          ({ number }) => number,
        ),
      };
    },
  },
  {
    method: 'get',
    path: '/releases/{number}',
    needs: 'read',
    summary: 'One release with its document and what it changed',
    handle: ({ service, params }) => {
      const number = numberOf(params['number']!);
      const row = service.economies.releaseRow(number);
      if (!row) throw new Problem('not-found', `There is no release ${number}.`);
      const document = JSON.parse(row.document) as EconomyDocument;
      const before = service.economies.releaseRow(number - 1);
      const changes = before ? documentChanges(JSON.parse(before.document) as EconomyDocument, document) : [];
      return { body: { ...row, document, changes } };
    },
  },
  {
    method: 'get',
    path: '/channels',
    needs: 'read',
    summary: 'Channels, the releases they point at, and what is scheduled on them',
    handle: ({ service }) => ({ body: { items: service.channels.views(), next: null } }),
  },
  {
    method: 'get',
    path: '/channels/{name}/moves',
    needs: 'read',
    summary: 'Every release that a channel was pointed at, newest first',
    handle: ({ service, params }) => ({
      body: { items: service.channels.history(channelName(params['name']!)), next: null },
    }),
  },
  {
    method: 'put',
    path: '/channels/{name}',
    needs: 'publish',
    summary: 'Points a channel at a release, at once or from a set time: going back is pointing at an older one',
    body: channelBody,
    handle: async (incoming) => {
      const { service, who, params } = incoming;
      const name = channelName(params['name']!);
      const { release, at, note = '' } = bodyOf<{ release: number; at?: string; note?: string }>(incoming);
      if (!service.economies.releaseRow(release)) throw new Problem('not-found', `There is no release ${release}.`);
      const atMs = setTime(service, at);
      await service.writer
        .submit(() => service.channels.move(name, release, who.name, note, atMs))
        .then((done) => armed(service, done));
      return { body: service.channels.views().find((channel) => channel.name === name) };
    },
  },
  {
    method: 'delete',
    path: '/channels/{name}/moves/{move}',
    needs: 'publish',
    summary: 'Takes back what is scheduled and has not come yet',
    handle: async ({ service, who, params }) => ({
      body: await service.writer
        .submit(() => service.channels.cancel(channelName(params['name']!), Number(params['move']), who.name))
        .then((done) => armed(service, done)),
    }),
  },
  {
    method: 'delete',
    path: '/channels/{name}',
    needs: 'publish',
    summary: 'Deletes a channel that nobody uses',
    query: { anyway: 'true deletes one that is in use' },
    handle: async ({ service, who, params, query }) => {
      const name = channelName(params['name']!);
      await service.writer.submit(() => service.channels.remove(name, who.name, query['anyway'] === 'true'));
      return { body: { deleted: name } };
    },
  },
];
