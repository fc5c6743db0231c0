/** Results of cases in the JUnit XML format, which pipelines show: one test case each, with what does not hold. */
import { element, isXml } from '../report/index.js';
import { caseLines } from '../texts/index.js';
import type { CaseResult } from './run.js';

/** `name`: of the economy. Nothing in it depends on when or how fast it ran. */
export function casesJunit(name: string, results: readonly CaseResult[]): string {
  const cases = results.map((result) => {
    const lines = caseLines(result);
    const tag = result.state === 'unplayable' ? 'error' : 'failure';
    return element(
      'testcase',
      { name: plain(result.name), classname: `cases.${result.id}` },
      result.state === 'holds' ? undefined : element(tag, { message: plain(lines[0]!) }, plain(lines.join('\n'))),
    );
  });
  const count = (state: CaseResult['state']): string => String(results.filter((one) => one.state === state).length);
  const counts = { tests: String(results.length), failures: count('broken'), errors: count('unplayable') };
  const suite = element('testsuite', { name: plain(name), ...counts }, cases);
  return `<?xml version="1.0" encoding="UTF-8"?>\n${element('testsuites', counts, suite).markup}\n`;
}

/** Without signs that no XML may hold. */
const plain = (text: string): string => [...text].filter(isXml).join('');
