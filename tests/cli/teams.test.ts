/** Teams and rankings from the command line, read as support would. */
import { runCli } from '../support/cli.js';
import { demoDocument } from '../support/economy.js';
import { startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let stall: Stall;
beforeAll(async () => {
  const document = demoDocument();
  document.teams = { ...document.teams, crew: { name: 'Crew', most: 2 } };
  document.earning!['race_prize']!.share = { crew: 0.25 };
  document.goals = {
    ...document.goals,
    laps: { name: 'Laps together', team: 'crew', counts: 'events', event: 'race_finished', target: 3 },
  };
  document.rankings = {
    flyers: { name: 'Flyers of the week', by: 'earned', currency: 'shells', every: 'week' },
    crews: { name: 'Most laps', team: 'crew', by: 'goal', goal: 'laps' },
  };
  stall = await startStall({ document });
  for (const id of ['mateo', 'oda', 'yuna']) await stall.as('game').call('POST /players', { body: { id, name: id } });
});
afterAll(() => stall.stop());

const run = async (...args: string[]) => {
  const { code, out, err } = await runCli(['--url', stall.url, '--token', stall.tokens.admin, ...args]);
  return { code, out: out.trim().split('\n'), err: err.trim().split('\n') };
};

test('a team is made, joined, looked at, given and dissolved', async () => {
  expect((await run('team', 'list')).out).toEqual([
    'There is no such team. Make one: dimestall team make <id> --kind <kind>',
  ]);
  expect((await run('team', 'make', 'gulls', '--kind', 'crew', '--name', 'The Gulls')).out).toEqual([
    'The Gulls is made. 0 members.',
  ]);
  await run('team', 'make', 'terns', '--kind', 'crew', '--name', 'The Terns');
  expect((await run('team', 'join', 'gulls', 'mateo')).out).toEqual(['The Gulls has mateo. 1 member.']);
  await run('team', 'join', 'gulls', 'oda');
  expect(await run('team', 'gulls')).toEqual(await run('team', 'show', 'gulls'));
  expect(await run('team')).toEqual(await run('team', 'list'));
  const full = await run('team', 'join', 'gulls', 'yuna');
  expect([full.code, full.err[0]]).toEqual([
    1,
    'The team cannot do that: The Gulls is full: it has 2 members, and 2 are the most.',
  ]);
  expect((await run('event', 'mateo', 'race_finished', 'place=1', 'difficulty=1')).out).toEqual(
    expect.arrayContaining([
      'race_prize: gave 23 Shells, gave the team gulls 7 Shells',
      'Laps together of The Gulls: 1 of 3',
    ]),
  );
  const granted = await run('team', 'grant', 'gulls', 'pearls=2', '--take', 'shells=10', '--reason', 'a prize');
  expect(granted.out).toEqual(['Gave: 2 Pearls', 'Took: 7 Shells', 'Not there to take: 3 Shells']);
  const { out } = await run('team', 'show', 'gulls', '--ledger');
  expect(out.slice(0, 4)).toEqual([
    expect.stringMatching(/^The Gulls \(gulls\), crew, here since 2027-03-01/),
    'holds: 0 Shells, 2 Pearls',
    'Laps together: 1 of 3',
    '2 of 2 members:',
  ]);
  expect(out.filter((line) => line.includes('grant:'))).toHaveLength(2);
  expect((await run('player', 'mateo')).out).toContain('teams: The Gulls');
  expect((await run('team', 'leave', 'gulls', 'oda')).out).toEqual(['The Gulls is without oda. 1 member.']);
  expect((await run('team', 'rename', 'terns', 'Night Terns')).out).toEqual([
    'Night Terns is its name now. 0 members.',
  ]);
  expect((await run('team', 'dissolve', 'terns')).out).toEqual(['terns is dissolved. Lost: nothing']);
  expect((await run('team', 'list')).out).toHaveLength(2);
});

test('places and neighbours', async () => {
  for (const player of ['oda', 'yuna']) await run('event', player, 'race_finished', 'place=1', 'difficulty=1');
  expect((await run('ranking', 'list')).out[1]).toMatch(
    /^flyers +Flyers of the week +players +Shells earned +2027-03-08 00:00 WET$/,
  );
  const shown = await run('ranking', 'show', 'flyers');
  expect(shown.out[0]).toBe(
    'Flyers of the week, by Shells earned, from 2027-03-01 00:00 WET until 2027-03-08 00:00 WET',
  );
  expect(shown.out.slice(2)).toEqual([
    expect.stringMatching(/^ *1 +oda +oda +40 Shells$/),
    expect.stringMatching(/^ *1 +yuna +yuna +40 Shells$/),
    expect.stringMatching(/^ *3 +mateo +mateo +33 Shells$/),
  ]);
  expect(await run('ranking', 'flyers')).toEqual(shown);
  expect(await run('ranking')).toEqual(await run('ranking', 'list'));
  expect((await run('ranking', 'place', 'flyers', 'mateo', '--around', '1')).out[0]).toBe(
    'mateo has place 3 of 3 in Flyers of the week.',
  );
  expect((await run('ranking', 'place', 'crews', 'gulls')).out[0]).toBe('gulls has place 1 of 1 in Most laps.');
  const none = await run('ranking', 'show', 'flyer');
  expect([none.code, none.err[0]]).toEqual([1, 'There is no ranking "flyer". Did you mean "flyers"?']);
});
