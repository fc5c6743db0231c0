/** What comes a player's way in a rehearsal beside the shop: play, events, money and things, time. */
import { useState } from 'react';
import type { ReactNode } from 'react';
import { unitsParse } from '../../core/amount/index.js';
import { CELLS } from '../../core/catalog/cell.js';
import type { EconomyDocument } from '../../core/document/index.js';
import type { AssetLabels } from '../../core/texts/index.js';
import { Picker, amountsRead } from '../fields/Picker.js';
import type { AmountOf } from '../fields/Picker.js';
import { nameables } from '../fields/nameable.js';
import { eventFields } from '../parts/eventFields.js';
import { Button, Choice, Input, Sheet } from '../parts/ui.js';

/** A step as the service takes it, with amounts in smallest units. */
export type Step = Record<string, unknown>;

/** What else comes a player's way: play, an event, money or things, time. */
export function Deeds({
  document,
  labels,
  onTake,
}: {
  document: EconomyDocument;
  labels: AssetLabels;
  onTake: (step: Step) => void;
}) {
  const activities = Object.entries(document.activities ?? {});
  const events = Object.keys(document.events ?? {});
  const [problem, setProblem] = useState<string>();
  const move = (verb: 'give' | 'take', entries: readonly AmountOf[]): void => {
    const typed = amountsRead(entries, (id, amount) => {
      const read = unitsParse(amount, labels(id)?.decimals ?? 0);
      return read.ok ? { ok: true, value: read.units } : { ok: false, problem: `${read.message}. ${read.fix}` };
    });
    setProblem(typed.ok ? undefined : typed.problem);
    if (typed.ok) onTake({ [verb]: typed.values });
  };
  return (
    <Sheet title="What happens">
      <div className="flex flex-col gap-2">
        <Row label="Play">
          {activities.map(([id, { name }]) => (
            <Button key={id} className="py-0 text-sm" onClick={() => onTake({ play: id })}>
              {name}
            </Button>
          ))}
          {activities.length === 0 && <span className="text-sm text-soft">no activity yet</span>}
        </Row>
        {events.length > 0 && <EventDeed document={document} onTake={onTake} />}
        {(['give', 'take'] as const).map((verb) => (
          <Row key={verb} label={MOVED[verb]}>
            <Picker
              label={`${MOVED[verb]}: an amount and a thing, such as 350 shells`}
              options={nameables(document, 'asset', [])}
              value={undefined}
              word="currency or item"
              adding
              className="min-w-0 flex-1 py-0"
              onPick={(id) => id !== undefined && move(verb, [{ id, amount: '1' }])}
              onAmounts={(entries) => move(verb, entries)}
            />
          </Row>
        ))}
        {problem !== undefined && <p className="text-sm text-brick">{problem}</p>}
        <LuckDeed document={document} onTake={onTake} />
        {Object.keys(document.attributes ?? {}).length > 0 && <SetDeed document={document} onTake={onTake} />}
        <Row label="Time">
          {[
            ['an hour', 'PT1H'],
            ['a day', 'day'],
            ['a week', 'P7D'],
            ['the next change', 'change'],
          ].map(([words, wait]) => (
            <Button key={wait} className="py-0 text-sm" onClick={() => onTake({ wait })}>
              {words}
            </Button>
          ))}
        </Row>
      </div>
    </Sheet>
  );
}

const MOVED = { give: 'Given', take: 'Taken' } as const;

/** The rare one comes: a box, or an activity, in the luck in which it brings what is picked. */
function LuckDeed({ document, onTake }: { document: EconomyDocument; onTake: (step: Step) => void }) {
  const boxes = Object.entries(document.items ?? {}).filter(([, { kind }]) => kind === 'box');
  const all = [
    ...boxes.map(([id, { name }]) => ({ value: `open ${id}`, label: `open ${name}` })),
    ...Object.entries(document.activities ?? {}).map(([id, { name }]) => ({
      value: `play ${id}`,
      label: `play ${name}`,
    })),
  ];
  const [picked, setPicked] = useState<string>();
  const chosen = picked ?? all[0]?.value;
  if (chosen === undefined) return null;
  const [verb, id] = chosen.split(' ') as [string, string];
  return (
    <Row label="In luck">
      <Choice label="What is done in luck" value={chosen} options={all} onChange={setPicked} />
      <Picker
        label="In luck: what comes of it"
        options={nameables(document, 'asset', [])}
        value={undefined}
        word="thing that comes"
        adding
        className="min-w-0 flex-1 py-0"
        onPick={(brings) => brings !== undefined && onTake({ [verb]: id, brings })}
      />
    </Row>
  );
}

/** What the game knows of the player, set by hand. */
function SetDeed({ document, onTake }: { document: EconomyDocument; onTake: (step: Step) => void }) {
  const all = Object.entries(document.attributes!);
  const [chosen, setChosen] = useState(all[0]![0]);
  const [typed, setTyped] = useState('');
  const read = CELLS.value.read(typed);
  return (
    <form
      className="contents"
      onSubmit={(event) => {
        event.preventDefault();
        if (read.ok && read.value !== undefined) onTake({ set: { [chosen]: read.value } });
      }}
    >
      <Row label="Set">
        <Choice
          label="Attribute"
          value={chosen}
          options={all.map(([value, { name }]) => ({ value, label: name ?? value }))}
          onChange={setChosen}
        />
        <Input
          aria-label="Attribute's value"
          className="w-20 py-0"
          placeholder={String(document.attributes![chosen]?.start ?? '')}
          value={typed}
          onChange={({ target }) => setTyped(target.value)}
        />
        <Button type="submit" className="py-0 text-sm" disabled={typed.trim() === ''}>
          Set
        </Button>
      </Row>
    </form>
  );
}

function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div role="group" aria-label={label} className="flex flex-wrap items-center gap-1">
      <span className="w-14 text-sm text-soft">{label}</span>
      {children}
    </div>
  );
}

function EventDeed({ document, onTake }: { document: EconomyDocument; onTake: (step: Step) => void }) {
  const all = Object.entries(document.events ?? {});
  const [chosen, setChosen] = useState(all[0]![0]);
  const [typed, setTyped] = useState<Readonly<Record<string, string>>>({});
  const usual = eventFields(document, chosen);
  const fields = Object.fromEntries(
    Object.entries(usual).map(([name, value]) => {
      const text = typed[name];
      return [name, text === undefined ? value : typeof value === 'number' ? Number(text) : text];
    }),
  );
  return (
    <Row label="Event">
      <Choice
        label="Event"
        value={chosen}
        options={all.map(([value, { name }]) => ({ value, label: name ?? value }))}
        onChange={(next) => {
          setChosen(next);
          setTyped({});
        }}
      />
      {Object.entries(usual).map(([name, value]) => (
        <label key={name} className="flex items-center gap-1 text-sm">
          {name}
          <Input
            className="w-14 py-0"
            value={typed[name] ?? String(value)}
            onChange={({ target }) => setTyped({ ...typed, [name]: target.value })}
          />
        </label>
      ))}
      <Button
        className="py-0 text-sm"
        onClick={() => onTake({ event: chosen, ...(Object.keys(fields).length > 0 ? { fields } : {}) })}
      >
        Report
      </Button>
    </Row>
  );
}
