import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { parse } from 'yaml';
import { casesRun } from '../../src/core/cases/index.js';
import { documentValidate } from '../../src/core/document/index.js';
import type { EconomyDocument } from '../../src/core/document/index.js';
import { demoDocument, demoEconomy } from '../support/economy.js';
import { economyAudit } from '../../src/core/audit/index.js';
import { economyLoad } from '../../src/core/economy/index.js';
import { scenarioResolve } from '../../src/core/simulation/index.js';
import { packageRoot } from '../../src/service/index.js';
import { Tour, timeless, tourSteps } from '../support/tour.js';

const readme = readFileSync(join(packageRoot(), 'README.md'), 'utf8');

const tour = new Tour();
afterAll(() => tour.stop());

test('the tour gives, command by command, what the README says', async () => {
  const [start, path, ...steps] = tourSteps(
    readme.slice(readme.indexOf('## Five minutes'), readme.indexOf('## The console')),
  );
  expect(start!.command).toBe('script/demo');
  expect(timeless(await tour.greeting)).toBe(timeless(start!.output));
  expect(path!.command).toContain('export PATH');
  expect(steps.length).toBeGreaterThan(10);
  for (const { command, output } of steps)
    expect(`$ ${command}\n${timeless(await tour.run(command))}`).toBe(`$ ${command}\n${timeless(output)}`);
}, 300_000);

test('the examples of the guide to economy files are one economy without a finding of substance', () => {
  const guide = readFileSync(join(packageRoot(), 'docs/economy-files.md'), 'utf8');
  const files = [...guide.matchAll(/```yaml\n([\s\S]*?)```/g)].map(([, text], index) => ({ path: `${index}.yaml`, text: text! }));
  expect(files).toHaveLength(14);
  const { document, economy, issues } = economyLoad(files);
  expect(issues).toEqual([]);
  expect(economyAudit(document!).filter(({ severity }) => severity !== 'hint')).toEqual([]);
  expect(casesRun(economy!, document!).map(({ state }) => state)).toEqual(['holds']);
  expect(scenarioResolve(document!, 'first_month', { days: 2, players: 5 }).ok).toBe(true);
});

test('the commands of the guide to cases give what it says', async () => {
  const steps = tourSteps(readFileSync(join(packageRoot(), 'docs/cases.md'), 'utf8'));
  expect(steps.length).toBe(2);
  for (const { command, output } of steps) expect([command, (await tour.run(command)).trimEnd()]).toEqual([command, output.trimEnd()]);
});

test('the example of the guide to cases holds on the demo', () => {
  const guide = readFileSync(join(packageRoot(), 'docs/cases.md'), 'utf8');
  const { cases } = parse(/```yaml\n([\s\S]*?)```/.exec(guide)![1]!) as EconomyDocument;
  const checked = documentValidate({ name: 'X', timeZone: 'UTC', cases });
  expect(checked.ok).toBe(true);
  expect(casesRun(demoEconomy(), { ...demoDocument(), cases }).map(({ state }) => state)).toEqual(['holds']);
});

test('every file and picture that the documents link to is there', () => {
  for (const document of ['README.md', 'CONTRIBUTING.md', 'docs/tutorial.md', 'docs/rehearsals.md', 'docs/cases.md', 'docs/method.md', 'docs/architecture.md', 'docs/decisions/README.md']) {
    const text = readFileSync(join(packageRoot(), document), 'utf8');
    const links = [...text.matchAll(/\]\(([^)#:]+)\)/g)].map(([, link]) => join(packageRoot(), document, '..', link!));
    expect(links.length).toBeGreaterThan(0);
    expect(links.filter((link) => !existsSync(link))).toEqual([]);
  }
});
