/** Where a draft has no scenario yet: three questions make one, and its first run begins by itself. */
import { useState } from 'react';
import { Link } from 'react-router';
import type { EconomyDocument } from '../../core/document/index.js';
import { SliderRow } from '../fields/SliderRow.js';
import { EditBar } from '../parts/EditBar.js';
import { useEdits } from '../parts/edits.js';
import { Button, Field, Input, Sheet } from '../parts/ui.js';
import { wholeOf } from './bench.js';
import { firstScenario, isAnythingEarned, readyPersonas } from './first.js';

const DAYS = 30;
const PLAYERS = 300;
const MOST_DAYS = 3650;
const MOST_PLAYERS = 20_000;

export function FirstScenario({ document }: { document: EconomyDocument }) {
  const { apply } = useEdits();
  const ready = readyPersonas(document);
  const [days, setDays] = useState(String(DAYS));
  const [players, setPlayers] = useState(String(PLAYERS));
  const [mix, setMix] = useState<Readonly<Record<string, number>>>({});
  const weights = ready.map((one) => ({ ...one, weight: mix[one.id] ?? 1 }));
  const all = weights.reduce((sum, { weight }) => sum + weight, 0);
  const long = wholeOf(days, 1, MOST_DAYS);
  const many = wholeOf(players, 2, MOST_PLAYERS);
  const make = (): void => {
    if (long === undefined || many === undefined || all === 0) return;
    apply({
      operations: firstScenario(document, {
        days: long,
        players: many,
        mix: Object.fromEntries(weights.map(({ id, weight }) => [id, weight])),
        start: new Date().toISOString().slice(0, 10),
      }),
    });
  };
  return (
    <div className="flex flex-col gap-3">
      <div className="flex items-center gap-3">
        <h1 className="text-2xl">Simulate</h1>
        <Link className="underline" to="/simulate?view=made" title="Activities, personas and scenarios, one by one">
          Who plays
        </Link>
        <EditBar />
      </div>
      <Sheet title="Three questions for the first run" className="max-w-2xl">
        <form
          className="flex flex-col gap-4"
          onSubmit={(event) => {
            event.preventDefault();
            make();
          }}
        >
          <div className="flex gap-4">
            <Field label="How long? Days">
              {(id) => (
                <Input
                  id={id}
                  className="w-32"
                  inputMode="numeric"
                  aria-invalid={long === undefined}
                  value={days}
                  onChange={({ target }) => setDays(target.value)}
                />
              )}
            </Field>
            <Field label="How many? Players">
              {(id) => (
                <Input
                  id={id}
                  className="w-32"
                  inputMode="numeric"
                  aria-invalid={many === undefined}
                  value={players}
                  onChange={({ target }) => setPlayers(target.value)}
                />
              )}
            </Field>
          </div>
          {long === undefined && <p className="text-brick">Days are a whole number from 1 to {MOST_DAYS}.</p>}
          {many === undefined && (
            <p className="text-brick">Players are a whole number from 2 to {MOST_PLAYERS.toLocaleString('en')}.</p>
          )}
          <fieldset className="min-w-0">
            <legend className="text-sm font-semibold text-soft">Who plays?</legend>
            {weights.map(({ id, name, says, weight }) => (
              <div key={id}>
                <SliderRow
                  name={name}
                  value={weight}
                  from={0}
                  to={4}
                  step={0.1}
                  more={all > 0 ? `${Math.round((100 * weight) / all)} %` : ''}
                  onMove={(next) => setMix({ ...mix, [id]: next })}
                />
                {says !== '' && <p className="-mt-1 px-1 text-sm text-soft">{says}</p>}
              </div>
            ))}
          </fieldset>
          {all === 0 && <p className="text-brick">Somebody has to play: move one of them up.</p>}
          {!isAnythingEarned(document) && (
            <p className="text-soft">
              Nothing pays yet, so they spend what they start with. What they do is said by{' '}
              <Link className="underline" to="/earning">
                events
              </Link>{' '}
              and{' '}
              <Link className="underline" to="/earning?section=earning">
                earning rules
              </Link>
              .
            </p>
          )}
          <Button
            type="submit"
            look="primary"
            className="self-start"
            disabled={long === undefined || many === undefined || all === 0}
          >
            Make the scenario and run it
          </Button>
          <p className="text-sm text-soft">
            Everything in it can be changed afterwards under Set up, while the charts follow.
          </p>
        </form>
      </Sheet>
    </div>
  );
}
