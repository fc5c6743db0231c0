/** Releases and channels, the calendar, what rotations have on show, and the stream of what happens. */
import { about, anyText, anyWhole, record, text, yesNo } from '../../core/schema/index.js';
import { media, operations } from '../operation.js';
import { NUMBERED_PAGE_QUERY, atQuery, numbered, pageOf, sourceQuery } from '../shapes/common.js';
import * as time from '../shapes/time.js';

const STRETCH = {
  from: atQuery('From when; now by default'),
  to: atQuery('Until when (exclusive); 14 days later by default'),
  shop: about('Only this shop', text(64)),
  player: about('Whose selection, where each player has their own', text(64)),
  source: sourceQuery(),
};

export const timeOperations = operations({
  'POST /releases': {
    id: 'publishRelease',
    role: 'publish',
    saves: true,
    summary: 'Publishes the draft as a numbered release and points a channel at it',
    body: time.publishRequest,
    answers: { 201: time.published },
    problems: ['invalid', 'stale', 'audit-errors', 'broken-cases', 'nothing-published'],
  },
  'GET /releases': {
    id: 'listReleases',
    role: 'read',
    summary: 'Releases, newest first',
    query: NUMBERED_PAGE_QUERY,
    answers: { 200: pageOf(time.releaseRow) },
  },
  'GET /releases/{release}': {
    id: 'getRelease',
    role: 'read',
    aside: true,
    summary: 'One release with its document and what it changed',
    params: { release: numbered() },
    answers: { 200: time.releaseWhole },
    problems: ['not-found'],
  },
  'GET /sources/{source}': {
    id: 'getSource',
    role: 'read',
    aside: true,
    summary: 'The economy that a source names: the draft, what a channel points at now, or a release by number',
    answers: { 200: time.source },
    problems: ['not-found', 'nothing-published'],
  },
  'GET /channels': {
    id: 'listChannels',
    role: 'read',
    summary: 'Channels, the releases they point at, and what is scheduled on them',
    answers: { 200: pageOf(time.channel) },
  },
  'GET /channels/{channel}/moves': {
    id: 'listChannelMoves',
    role: 'read',
    summary: 'Every release that a channel was pointed at, newest first',
    answers: { 200: pageOf(time.move) },
  },
  'PUT /channels/{channel}': {
    id: 'pointChannel',
    role: 'publish',
    summary: 'Points a channel at a release, at once or from a set time: going back is pointing at an older one',
    body: time.pointRequest,
    answers: { 200: time.channel },
    problems: ['invalid', 'not-found'],
  },
  'DELETE /channels/{channel}/moves/{move}': {
    id: 'cancelChannelMove',
    role: 'publish',
    summary: 'Takes back what is scheduled and has not come yet',
    params: { move: numbered() },
    answers: { 200: time.move },
    problems: ['not-found'],
  },
  'DELETE /channels/{channel}': {
    id: 'deleteChannel',
    role: 'publish',
    summary: 'Deletes a channel that nobody uses',
    query: { anyway: about('True deletes one that is in use', yesNo()) },
    answers: { 200: record({ deleted: anyText() }) },
    problems: ['not-found', 'channel-in-use'],
  },
  'GET /calendar': {
    id: 'getCalendar',
    role: 'read',
    aside: true,
    summary: 'What a stretch of time brings, by shop: opening hours, rotations, sales, windows, ends, releases',
    query: STRETCH,
    answers: { 200: time.calendar },
    problems: ['not-found', 'nothing-published'],
  },
  'GET /calendar.ics': {
    id: 'exportCalendar',
    role: 'calendar',
    aside: true,
    summary: 'The same as iCalendar, for any calendar program',
    query: STRETCH,
    answers: { 200: media('text/calendar') },
    problems: ['not-found', 'nothing-published'],
  },
  'GET /rotations': {
    id: 'listRotations',
    role: 'read',
    aside: true,
    summary: 'What every rotating shelf has on show at an instant',
    query: { at: atQuery(), player: STRETCH.player, source: STRETCH.source },
    answers: { 200: time.rotations },
    problems: ['not-found', 'nothing-published'],
  },
  'POST /rotations/{shop}/{shelf}/records': {
    id: 'recordRotation',
    role: 'publish',
    summary: 'Pins an offer into a period, takes one out, or redraws the period; it is recorded who did so',
    query: { source: STRETCH.source },
    body: time.rotationRequest,
    answers: { 201: time.rotation },
    problems: ['not-found', 'invalid', 'nothing-published'],
  },
  'DELETE /rotations/records/{record}': {
    id: 'endRotationRecord',
    role: 'publish',
    summary: 'Takes a pin or a redraw back',
    params: { record: numbered() },
    answers: { 200: record({ ended: anyWhole() }) },
    problems: ['not-found'],
  },
  'GET /stream': {
    id: 'streamNews',
    resumes: true,
    role: 'read',
    summary: `What happens, as server-sent CloudEvents: ${Object.entries(time.STREAM_TYPES)
      .map(([type, words]) => `dimestall.${type} (${words})`)
      .join('; ')}. A comment comes every 15 seconds`,
    answers: {},
    events: time.streamEvent,
  },
});
