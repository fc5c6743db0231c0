import { spawn } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, readFileSync, symlinkSync } from 'node:fs';
import { join } from 'node:path';
import { economyAudit } from '../../src/core/audit/index.js';
import { economyLoad } from '../../src/core/economy/index.js';
import { scenarioResolve } from '../../src/core/simulation/index.js';
import { packageRoot } from '../../src/service/index.js';
import { CLI } from '../support/cli.js';
import { scratchFolder } from '../support/stall.js';

const readme = readFileSync(join(packageRoot(), 'README.md'), 'utf8');

/** The tour's commands with the output that the README promises, here-documents included. */
function tourSteps(): { command: string; output: string }[] {
  const tour = readme.slice(readme.indexOf('## Five minutes'), readme.indexOf('## The console'));
  const blocks = [...tour.matchAll(/```console\n([\s\S]*?)```/g)].map(([, block]) => block!);
  return blocks.flatMap((block) => block.split(/^\$ /m).slice(1).map((step) => {
    const lines = step.split('\n');
    const end = lines[0]!.includes("<<'END'") ? lines.indexOf('END') + 1 : 1;
    return { command: lines.slice(0, end).join('\n'), output: lines.slice(end).join('\n').trim() };
  }));
}

/** Instants differ from day to day; everything else must be as promised. */
const timeless = (text: string) => text.replace(/\d{4}-\d\d-\d\d \d\d:\d\d WES?T/g, 'NOW').replace(/ds_[\w.-]+/g, 'TOKEN').replace(/:\d{4,5}\//g, ':PORT/').trim();

let demo: ChildProcess;
let folder: ReturnType<typeof scratchFolder>;
beforeAll(async () => {
  folder = scratchFolder();
  symlinkSync(join(packageRoot(), 'script'), join(folder.path, 'script'));
  symlinkSync(join(packageRoot(), 'demo'), join(folder.path, 'demo'));
  demo = spawn(process.execPath, [CLI, 'demo', '--port', '0'], { cwd: folder.path, stdio: ['ignore', 'pipe', 'inherit'] });
});
afterAll(async () => {
  const exited = once(demo, 'exit');
  demo.kill('SIGTERM');
  await exited;
  folder.remove();
});

test('the tour gives, command by command, what the README says', async () => {
  const [start, path, ...steps] = tourSteps();
  const greeting = await new Promise<string>((resolve) => {
    let text = '';
    demo.stdout!.on('data', (chunk: Buffer) => {
      text += chunk.toString();
      if (text.includes('--fresh')) resolve(text);
    });
  });
  expect(start!.command).toBe('script/demo');
  expect(timeless(greeting)).toBe(timeless(start!.output));
  expect(path!.command).toContain('export PATH');
  expect(steps.length).toBeGreaterThan(10);
  for (const { command, output } of steps) {
    const child = spawn('bash', ['-c', `${path!.command}\n${command}`], { cwd: folder.path, stdio: ['ignore', 'pipe', 'pipe'] });
    let text = '';
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (chunk: Buffer) => { text += chunk.toString(); });
    await once(child, 'close');
    expect(`$ ${command}\n${timeless(text)}`).toBe(`$ ${command}\n${timeless(output)}`);
  }
}, 120_000);

test('the examples of the guide to economy files are one economy without a finding of substance', () => {
  const guide = readFileSync(join(packageRoot(), 'docs/economy-files.md'), 'utf8');
  const files = [...guide.matchAll(/```yaml\n([\s\S]*?)```/g)].map(([, text], index) => ({ path: `${index}.yaml`, text: text! }));
  expect(files).toHaveLength(6);
  const { document, issues } = economyLoad(files);
  expect(issues).toEqual([]);
  expect(economyAudit(document!).filter(({ severity }) => severity !== 'hint')).toEqual([]);
  expect(scenarioResolve(document!, 'first_month', { days: 2, players: 5 }).ok).toBe(true);
});

test('every file and picture that the documents link to is there', () => {
  for (const document of ['README.md', 'CONTRIBUTING.md', 'docs/architecture.md', 'docs/decisions/README.md']) {
    const text = readFileSync(join(packageRoot(), document), 'utf8');
    const links = [...text.matchAll(/\]\(([^)#:]+)\)/g)].map(([, link]) => join(packageRoot(), document, '..', link!));
    expect(links.length).toBeGreaterThan(0);
    expect(links.filter((link) => !existsSync(link))).toEqual([]);
  }
});
