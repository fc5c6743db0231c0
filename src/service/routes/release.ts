/** Publishing, releases and channels. */
import { documentChanges, fields, text, wholeNumber } from '../../core/economy/index.js';
import type { EconomyDocument } from '../../core/economy/index.js';
import { Problem } from '../problem.js';
import { PAGE_QUERY, bodyOf, pageLimit, pageOf, queryNumber } from '../route.js';
import type { Route } from '../route.js';

const publishBody = fields({
  note: text(2000).required(),
  channel: text(64),
  revision: wholeNumber(1, Number.MAX_SAFE_INTEGER),
});
const channelBody = fields({ release: wholeNumber(1, Number.MAX_SAFE_INTEGER).required() });

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
      } = bodyOf<{ note: string; channel?: string; revision?: number }>(incoming);
      const release = await service.writer.submit(() => service.economies.publish(revision, note, channel, who.name));
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
    summary: 'Channels and the releases they point at',
    handle: ({ service }) => ({ body: { items: service.economies.channels(), next: null } }),
  },
  {
    method: 'put',
    path: '/channels/{name}',
    needs: 'publish',
    summary: 'Points a channel at a release: going back is pointing at an older one',
    body: channelBody,
    handle: async (incoming) => {
      const { service, who, params } = incoming;
      const name = params['name']!;
      if (!/^[a-z][a-z0-9_-]{0,63}$/.test(name))
        throw new Problem('bad-request', `"${name}" cannot be a channel: small letters, digits, _ and -.`);
      const { release } = bodyOf<{ release: number }>(incoming);
      await service.writer.submit(() => service.economies.pointChannel(name, release, who.name));
      return { body: service.economies.channels().find((channel) => channel.name === name) };
    },
  },
];
