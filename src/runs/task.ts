/** What is to be run, in a form that can be sent to another thread. */
import type { EconomyDocument } from '../core/document/index.js';
import { scenarioResolve } from '../core/simulation/index.js';
import type { RunSetup, ScenarioOptions } from '../core/simulation/index.js';

export interface RunTask {
  /** The economy as JSON. */
  text: string;
  scenario: string;
  options: ScenarioOptions;
}

/** The caller has resolved the same task before, so this fails for no user's mistake. */
export function taskSetup({ text, scenario, options }: RunTask): RunSetup {
  const setup = scenarioResolve(JSON.parse(text) as EconomyDocument, scenario, options);
  if (!setup.ok) throw new Error(setup.issues.map(({ message }) => message).join('; '));
  return setup.value;
}
