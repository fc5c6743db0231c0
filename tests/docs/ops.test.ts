/** The files for those who watch: they ask for nothing that the service does not tell. */
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { parse } from 'yaml';
import { CONTRACT, KEYS, pathOf } from '../../src/contract/index.js';
import type { Key, Operation } from '../../src/contract/index.js';
import { packageRoot } from '../../src/service/index.js';
import { runProcess } from '../support/cli.js';
import { Served } from '../support/served.js';

let served: Served;
let told: Set<string>;
beforeAll(async () => {
  served = await Served.demo();
  const metrics = await (await fetch(`${served.url}/metrics`)).text();
  const families = [...metrics.matchAll(/^# TYPE (\w+) (\w+)/gm)];
  told = new Set(
    families.flatMap(([, name, type]) =>
      type === 'histogram' ? ['_bucket', '_count', '_sum'].map((end) => `${name}${end}`) : [name!],
    ),
  );
});
afterAll(() => served.end());

const read = (name: string): string => readFileSync(join(packageRoot(), 'ops', name), 'utf8');
/** The names of figures in what is asked. */
const named = (expressions: readonly string[]): string[] =>
  expressions.flatMap((one) => one.match(/\b(?:dimestall|nodejs|process)_\w+/g) ?? []);

interface Rules {
  groups: { rules: { alert: string; expr: string; annotations: Record<string, string> }[] }[];
}
const rules = () => (parse(read('alerts.yaml')) as Rules).groups.flatMap((group) => group.rules);

test('alerts ask for figures that there are, and say what to do', () => {
  const all = rules();
  expect(all.length).toBeGreaterThan(5);
  expect(named(all.map(({ expr }) => expr)).filter((name) => !told.has(name))).toEqual([]);
  for (const { annotations } of all) expect(Object.keys(annotations).sort()).toEqual(['description', 'summary']);
});

test('each alert is tried, on a service that is well and on one that is not', () => {
  const tried = parse(read('alerts.test.yaml')) as {
    tests: { alert_rule_test: { alertname: string; exp_alerts?: object[] }[] }[];
  };
  const names = rules().map(({ alert }) => alert);
  const [well, bad] = tried.tests.map((one) => one.alert_rule_test);
  expect(well!.map(({ alertname, exp_alerts: fires }) => [alertname, fires])).toEqual(
    names.map((name) => [name, undefined]),
  );
  expect(bad!.map(({ alertname, exp_alerts: fires = [] }) => [alertname, fires.length])).toEqual(
    names.map((name) => [name, 1]),
  );
});

test('the proxy holds up no stream, and takes what the service takes', () => {
  const proxy = read('nginx.conf');
  const streams = new RegExp(/location ~ (\S+) \{/.exec(proxy)![1]!);
  const paths = KEYS.map((key) => ({ key, path: `/api/v1${pathOf(key).replaceAll(/\{\w+\}/g, 'one')}` }));
  const [held, not] = [true, false].map((is) =>
    paths.filter(({ path }) => streams.test(path) === is).map(({ key }) => key),
  );
  const isStream = (key: Key): boolean => (CONTRACT[key] as Operation).events !== undefined;
  expect(held!.filter(isStream).length).toBeGreaterThan(1);
  expect([held!.filter((key) => !isStream(key)), not!.filter(isStream)]).toEqual([[], []]);
  const most = Math.max(...KEYS.map((key) => (CONTRACT[key] as Operation).bodyKb ?? 0));
  expect(Number(/client_max_body_size (\d+)m;/.exec(proxy)![1]) * 1024).toBeGreaterThan(most);
});

test('the container and the unit start the service with options that it has, and copy what there is', async () => {
  const { out: help } = await runProcess(['serve', '--help']);
  const [container, unit] = ['Containerfile', 'dimestall.service'].map(read) as [string, string];
  const options = [/^CMD .*$/m, /^ExecStart=.*$/m].flatMap((line, n) => [container, unit][n]!.match(line)![0].match(/--[\w-]+/g)!);
  expect(options).toEqual(['--host', '--token-file', '--backup-to', '--token-file', '--backup-to']);
  for (const option of options) expect(help).toContain(option);
  const ignored = readFileSync(join(packageRoot(), '.containerignore'), 'utf8').split('\n');
  for (const [, folder] of container.matchAll(/--from=build \/build\/([\w.]+)/g)) {
    expect(existsSync(join(packageRoot(), folder!))).toBe(true);
    // What is made anew there is not taken along.
    expect(ignored.includes(folder!)).toBe(['dist', 'node_modules'].includes(folder!));
  }
});

test('the dashboard asks for figures that there are, each panel for something, and none lies over another', () => {
  const { panels } = JSON.parse(read('dashboard.json')) as {
    panels: { title: string; gridPos: Record<'x' | 'y' | 'w' | 'h', number>; targets: { expr: string }[] }[];
  };
  expect(named(panels.flatMap(({ targets }) => targets.map(({ expr }) => expr))).filter((name) => !told.has(name))).toEqual(
    [],
  );
  const places = panels.flatMap(({ title, gridPos: { x, y, w, h } }) =>
    Array.from({ length: w * h }, (_, n) => `${x + (n % w)} ${y + Math.floor(n / w)} ${title}`),
  );
  expect(new Set(places.map((place) => place.split(' ', 2).join())).size).toBe(places.length);
  for (const { gridPos } of panels) expect(gridPos.x + gridPos.w).toBeLessThanOrEqual(24);
  // Whoever has every figure of the service in view has them all in the dashboard.
  const shown = new Set(named(panels.flatMap(({ targets }) => targets.map(({ expr }) => expr))));
  const own = [...told].filter((name) => name.startsWith('dimestall_') && !/_(bucket|sum)$/.test(name));
  expect(own.filter((name) => !shown.has(name))).toEqual([]);
});
