/** Prices by a rule: each so many times the one below, in the order of the ladder; shown before it is done. */
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { Edit } from '../../core/catalog/index.js';
import { unitsFormat } from '../../core/amount/index.js';
import type { Step } from '../../core/playtime/index.js';
import { Preview } from '../catalog/Preview.js';
import { client } from '../api.js';
import { useEdits } from '../parts/edits.js';
import type { Playtime } from '../parts/playtime.js';
import { Button, Choice, Field, Input, Problem, Window } from '../parts/ui.js';

/** By currency, the prices that can be written: those of two offers of one item are one. */
function placesOf(steps: readonly Step[]): Map<string, { at: string[]; units: number[] }> {
  const places = new Map<string, { at: string[]; units: number[] }>();
  for (const { amountAt, price } of steps) {
    const [asset, units] = Object.entries(price)[0]!;
    if (amountAt === undefined) continue;
    const one = places.get(asset) ?? { at: [], units: [] };
    if (!one.at.includes(amountAt)) {
      one.at.push(amountAt);
      one.units.push(units);
    }
    places.set(asset, one);
  }
  return new Map([...places].filter(([, { at }]) => at.length > 1));
}

/** The even growth from the first to the last. */
const growthOf = (units: readonly number[]): number => (units.at(-1)! / units[0]!) ** (1 / (units.length - 1));

const PREFERRED = 'preferred';
const EXACT = 'exact';

export function LadderRule({
  steps,
  playtime,
  onClose,
}: {
  steps: readonly Step[];
  playtime: Playtime;
  onClose: () => void;
}) {
  const { run, saving } = useEdits();
  const places = placesOf(steps);
  const [asset, setAsset] = useState([...places.keys()][0] ?? '');
  const [error, setError] = useState<unknown>(null);
  const [rounding, setRounding] = useState(PREFERRED);
  const { at, units } = places.get(asset) ?? { at: [], units: [] };
  const decimals = playtime.labels(asset)?.decimals ?? 0;
  const [first, setFirst] = useState<string>();
  const [factor, setFactor] = useState<string>();
  const usual = {
    first: units.length === 0 ? '' : unitsFormat(units[0]!, decimals),
    factor: units.length === 0 ? '' : String(Number(Math.max(1, growthOf(units)).toFixed(2))),
  };
  const edit: Edit = {
    kind: 'ladder',
    at,
    first: Number(first ?? usual.first),
    factor: Number(factor ?? usual.factor),
    ...(rounding === EXACT ? { preferred: false } : {}),
  };
  const isRead = at.length > 1 && !Number.isNaN(edit.first) && !Number.isNaN(edit.factor);
  const preview = useQuery({
    queryKey: ['edit', edit],
    queryFn: () => client.call('POST /draft/edits', { body: edit, query: { preview: true } }),
    enabled: isRead,
    retry: false,
  });
  const after = preview.data?.changes.length ?? 0;
  return (
    <Window title="Prices by a rule" open wide onClose={onClose}>
      {at.length < 2 ? (
        <p>A rule needs two prices in one currency that are written as numbers. Pick another shop or group.</p>
      ) : (
        <>
          <div className="flex flex-wrap items-end gap-3">
            <Field label="Currency">
              {(id) => (
                <Choice
                  id={id}
                  value={asset}
                  options={[...places.keys()].map((value) => ({ value, label: playtime.labels(value)?.name ?? value }))}
                  onChange={(next) => {
                    setAsset(next);
                    setFirst(undefined);
                    setFactor(undefined);
                  }}
                />
              )}
            </Field>
            <Field label="The lowest price">
              {(id) => (
                <Input
                  id={id}
                  className="w-28"
                  value={first ?? usual.first}
                  onChange={({ target }) => setFirst(target.value)}
                />
              )}
            </Field>
            <Field label="Times the one below">
              {(id) => (
                <Input
                  id={id}
                  className="w-28"
                  value={factor ?? usual.factor}
                  onChange={({ target }) => setFactor(target.value)}
                />
              )}
            </Field>
            <Field label="Rounding">
              {(id) => (
                <Choice
                  id={id}
                  value={rounding}
                  options={[
                    { value: PREFERRED, label: 'to numbers people like' },
                    { value: EXACT, label: 'to whole units' },
                  ]}
                  onChange={setRounding}
                />
              )}
            </Field>
          </div>
          <p className="mt-2 text-sm text-soft">
            {at.length} prices keep their order. Where an offer asks the worth of its item, the worth changes, and with
            it whatever else asks it. Formulas stay as they are.
          </p>
          {isRead ? (
            <Preview answer={preview} />
          ) : (
            <p role="alert">Write numbers: the lowest price, and a factor such as 1.4.</p>
          )}
        </>
      )}
      <Problem error={error} />
      <div className="mt-3 flex justify-end gap-2">
        <Button onClick={onClose}>Cancel</Button>
        <Button
          look="primary"
          disabled={!isRead || saving || after === 0}
          onClick={() => {
            run(edit).then(onClose, setError);
          }}
        >
          Change {after} prices
        </Button>
      </div>
    </Window>
  );
}
