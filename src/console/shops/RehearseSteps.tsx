/** The steps of a rehearsal: what came of each, and the way back to any. */
import { movedText, stepLines, stepState } from '../../core/texts/rehearsed.js';
import type { AssetLabels } from '../../core/texts/index.js';
import type { Rehearsed } from '../../contract/index.js';
import { Badge, Button, Empty, Sheet, instantWords } from '../parts/ui.js';

type Done = Rehearsed['steps'][number];

/** As a letter, and not as a picture. */
const BACK_HERE = '\u21a9\ufe0e';

/** Newest first, so that what came of a press stands where one looks. */
export function Steps({
  steps,
  earlier,
  labels,
  zone,
  canRedo,
  onGoTo,
  onRedo,
}: {
  steps: readonly Done[];
  /** The same on the draft as it was. */
  earlier: readonly Done[];
  labels: AssetLabels;
  zone: string;
  canRedo: boolean;
  /** Back to where so many steps were taken. */
  onGoTo: (count: number) => void;
  onRedo: () => void;
}) {
  return (
    <Sheet
      title="Steps"
      actions={
        <span className="flex gap-1">
          <Button
            className="px-1.5 py-0 text-sm whitespace-nowrap"
            disabled={steps.length === 0}
            onClick={() => onGoTo(steps.length - 1)}
          >
            Step back
          </Button>
          <Button className="px-1.5 py-0 text-sm whitespace-nowrap" disabled={!canRedo} onClick={onRedo}>
            Redo step
          </Button>
          <Button
            className="px-1.5 py-0 text-sm whitespace-nowrap"
            disabled={steps.length === 0}
            onClick={() => onGoTo(0)}
          >
            Begin again
          </Button>
        </span>
      }
    >
      {steps.length === 0 && <Empty>Press Buy, play a race, let an hour pass: each press is a step.</Empty>}
      <ol aria-label="Steps, the last first" className="flex max-h-56 flex-col overflow-auto" tabIndex={0}>
        {steps
          .map((one, number) => ({ one, number }))
          .reverse()
          .map(({ one, number }) => (
            <li key={number} className="border-b border-line/50 py-1 text-sm">
              <div className="flex items-baseline gap-2">
                <span className="w-5 text-right text-soft">{number + 1}</span>
                <span className="min-w-0 flex-1">{one.words}</span>
                {isOther(one, earlier[number]) && <Badge tone="care">was {stepState(earlier[number]!)}</Badge>}
                <Badge tone={one.done ? 'good' : 'bad'}>{stepState(one)}</Badge>
                {number < steps.length - 1 && (
                  <Button
                    className="px-1.5 py-0 text-sm"
                    aria-label={`Go on from step ${number + 1}`}
                    onClick={() => onGoTo(number + 1)}
                  >
                    {BACK_HERE}
                  </Button>
                )}
              </div>
              <ul className="pl-7 text-soft">
                {[movedText(labels, one.moved), ...stepLines(labels, one)].filter(Boolean).map((line) => (
                  <li key={line}>{line}</li>
                ))}
                <li className="sr-only">{instantWords(one.atMs, zone)}</li>
              </ul>
            </li>
          ))}
      </ol>
    </Sheet>
  );
}

/** Whether something else came of a step than before the draft was changed. */
function isOther(now: Done, before: Done | undefined): boolean {
  const outcome = ({ done, times, moved, reasons }: Done): string =>
    JSON.stringify([done, times, Object.entries(moved).sort(), reasons.map(({ code }) => code)]);
  return before !== undefined && outcome(now) !== outcome(before);
}
