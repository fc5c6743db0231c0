/** The commands, by the file that has them: each is loaded when one of its commands is asked for. */
import type { Command } from 'commander';

type Add = (program: Command) => void;

/** In the order of the help. */
export const GROUPS: Readonly<Record<string, () => Promise<Add>>> = {
  service: () => import('./commands/service.js').then(({ addServiceCommands }) => addServiceCommands),
  demo: () => import('./commands/demo.js').then(({ addDemoCommands }) => addDemoCommands),
  draft: () => import('./commands/draft.js').then(({ addDraftCommands }) => addDraftCommands),
  release: () => import('./commands/release.js').then(({ addReleaseCommands }) => addReleaseCommands),
  time: () => import('./commands/time.js').then(({ addTimeCommands }) => addTimeCommands),
  look: () => import('./commands/look.js').then(({ addLookCommands }) => addLookCommands),
  edit: () => import('./commands/edit.js').then(({ addCatalogCommands }) => addCatalogCommands),
  picture: () => import('./commands/picture.js').then(({ addPictureCommands }) => addPictureCommands),
  trade: () => import('./commands/trade.js').then(({ addTradeCommands }) => addTradeCommands),
  act: () => import('./commands/act.js').then(({ addActCommands }) => addActCommands),
  player: () => import('./commands/player.js').then(({ addPlayerCommands }) => addPlayerCommands),
  team: () => import('./commands/team.js').then(({ addTeamCommands }) => addTeamCommands),
  try: () => import('./commands/try.js').then(({ addTryCommand }) => addTryCommand),
  rehearse: () => import('./commands/rehearse.js').then(({ addRehearseCommand }) => addRehearseCommand),
  cases: () => import('./commands/cases.js').then(({ addCasesCommand }) => addCasesCommand),
  simulate: () => import('./commands/simulate.js').then(({ addSimulationCommands }) => addSimulationCommands),
  balance: () => import('./commands/balance.js').then(({ addBalanceCommands }) => addBalanceCommands),
  pay: () => import('./commands/pay.js').then(({ addPayCommand }) => addPayCommand),
  ladder: () => import('./commands/ladder.js').then(({ addLadderCommand }) => addLadderCommand),
  replay: () => import('./commands/replay.js').then(({ addReplayCommand }) => addReplayCommand),
  fit: () => import('./commands/fit.js').then(({ addFitCommand }) => addFitCommand),
};

/** What the help says of a command, without its file being loaded. */
export interface Outlined {
  group: string;
  name: string;
  /** Its name with what it takes: `check [options] <offer>`. */
  term: string;
  description: string;
}
