/** Who asks, when, and of which economy: the same questions in Shops and Check, kept in the address. */
import { keepPreviousData } from '@tanstack/react-query';
import { Popover } from 'radix-ui';
import { useState } from 'react';
import { CELLS } from '../../core/catalog/cell.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { unitsParse } from '../../core/amount/index.js';
import type { Value } from '../../core/formula/index.js';
import type { Profile } from '../../core/player/index.js';
import { useChannels, usePlayers, useReleases } from '../api.js';
import { documentLabels } from '../../core/texts/amounts.js';
import { basketRows } from '../fields/Price.js';
import { Rows } from '../fields/Rows.js';
import { When } from '../fields/When.js';
import { nameables } from '../fields/nameable.js';
import { useParam, useSetParams } from './search.js';
import { Button, Choice, Field, Input } from './ui.js';

export interface Question {
  /** The draft, a channel, or the number of a release. */
  source: string;
  at?: string;
  player?: string;
  profile?: Profile;
  problem?: string;
}

/** Older ones are found by their number in the address. */
const MOST_RELEASES = 10;

/** The value of the list that stands for a made-up player. */
const MADE_UP = '(made up)';
/** Before the name of one that was kept: no id of a player begins so. */
const KEPT = '(kept) ';

/** While the answer to a changed question is on its way, the last one stays on the screen. */
export const keepLast = keepPreviousData;

/** A made-up player as the address says it: `level=3, platform=phone` and `shells=500`. */
interface MadeUp {
  attributes: string;
  holds: string;
}

/** `usual`: the economy that is asked where the address says none. */
export function useQuestion(
  document: EconomyDocument | undefined,
  usual = 'live',
): { question: Question; form: React.ReactNode } {
  const players = usePlayers().data?.items ?? [];
  const [source, setSource] = useParam('source', usual);
  const [player] = useParam('player', '');
  const [attributes] = useParam('attributes', '');
  const [holds] = useParam('holds', '');
  const [at, setAt] = useParam('at', '');
  const setParams = useSetParams();
  const [kept, setKept] = useState(keptRead);
  const chosen = player || players[0]?.id || MADE_UP;
  const described = { attributes, holds };
  const madeUp = chosen === MADE_UP ? readProfile(described, document) : undefined;
  const question: Question = {
    source,
    ...(at ? { at } : {}),
    ...(madeUp
      ? 'profile' in madeUp
        ? { profile: madeUp.profile }
        : { problem: madeUp.problem }
      : { player: chosen }),
  };
  const same = Object.entries(kept).find(([, one]) => one.attributes === attributes && one.holds === holds)?.[0];
  const choose = (value: string): void => {
    const one = value.startsWith(KEPT) ? kept[value.slice(KEPT.length)] : undefined;
    setParams(one ? { player: MADE_UP, ...one } : { player: value });
  };
  const { data: channels } = useChannels();
  const { data: releases } = useReleases();
  const sources = [
    { value: 'live', label: 'what is live' },
    { value: 'draft', label: 'the draft' },
    ...(channels?.items ?? [])
      .filter(({ name, release }) => name !== 'live' && release !== null)
      .map(({ name }) => ({ value: name, label: `the channel ${name}` })),
    ...(releases?.items ?? [])
      .slice(0, MOST_RELEASES)
      .map(({ number, note }) => ({ value: String(number), label: `release ${number}: ${note}` })),
  ];
  const form = (
    <>
      <Field label="Economy">
        {(id) => <Choice id={id} value={question.source} options={sources} onChange={setSource} />}
      </Field>
      <Field label="Player">
        {(id) => (
          <Choice
            id={id}
            value={chosen === MADE_UP && same !== undefined ? KEPT + same : chosen}
            options={[
              ...players.map((one) => ({ value: one.id, label: `${one.name} (${one.id})` })),
              ...Object.keys(kept).map((name) => ({ value: KEPT + name, label: `${name}, made up` })),
              { value: MADE_UP, label: 'A made-up player' },
            ]}
            onChange={choose}
          />
        )}
      </Field>
      {chosen === MADE_UP && document && (
        <Describe
          document={document}
          described={described}
          onChange={setParams}
          onKeep={(name) => setKept(keptWith(name, described))}
        />
      )}
      <Field label={at === '' ? 'At (now when empty)' : 'At'}>
        {(id) => (
          <When
            id={id}
            value={at === '' ? undefined : at}
            withTime
            zone={document?.timeZone ?? ''}
            onKeep={(value) => setAt(value ?? '')}
          />
        )}
      </Field>
    </>
  );
  return { question, form };
}

/** What a made-up player is and holds, in rows; it can be kept under a name for the time of the visit. */
function Describe({
  document,
  described,
  onChange,
  onKeep,
}: {
  document: EconomyDocument;
  described: MadeUp;
  onChange: (values: Record<string, string>) => void;
  onKeep: (name: string) => void;
}) {
  const [name, setName] = useState('');
  const attributes = Object.fromEntries(pairs(described.attributes));
  const holds = Object.fromEntries(pairs(described.holds).map(([asset, amount]) => [asset, Number(amount)]));
  const options = { attribute: nameables(document, 'attribute', []), asset: nameables(document, 'asset', []) };
  const nameOf = (kind: keyof typeof options, id: string) => options[kind].find((one) => one.id === id)?.label ?? id;
  const words = [
    ...Object.entries(attributes).map(([id, value]) => `${nameOf('attribute', id)} ${value}`),
    ...Object.entries(holds).map(([id, amount]) => `${amount} ${nameOf('asset', id)}`),
  ];
  return (
    <Field label="Who that is">
      {(id) => (
        <Popover.Root>
          <Popover.Trigger asChild>
            <Button id={id} className="max-w-64 truncate" title={words.join(', ')}>
              {words.join(', ') || 'A new player ...'}
            </Button>
          </Popover.Trigger>
          <Popover.Portal>
            <Popover.Content
              align="start"
              sideOffset={4}
              aria-label="Who that is"
              className="z-50 flex w-96 flex-col gap-2 rounded-sheet border border-line bg-sheet p-3 shadow-sheet"
            >
              <Rows
                label="Attributes"
                help="What the player is, where that differs from a new one."
                options={options.attribute}
                word="attribute"
                value={attributes}
                write={(_, value) => CELLS.text.write(value)}
                read={(_, text) => CELLS.text.read(text)}
                first={1}
                onKeep={(after) => onChange({ attributes: written(after) })}
              />
              <Rows
                label="Holds"
                help="What the player has."
                options={options.asset}
                word="currency or item"
                value={holds}
                {...basketRows('basket')}
                onKeep={(after) => onChange({ holds: written(after) })}
              />
              <form
                className="flex gap-1"
                onSubmit={(event) => {
                  event.preventDefault();
                  if (name.trim() === '') return;
                  onKeep(name.trim());
                  setName('');
                }}
              >
                <Input
                  aria-label="Keep as"
                  placeholder="Keep for this visit as ..."
                  className="min-w-0 flex-1"
                  value={name}
                  onChange={(event) => setName(event.target.value)}
                />
                <Button type="submit" disabled={name.trim() === ''}>
                  Keep
                </Button>
              </form>
            </Popover.Content>
          </Popover.Portal>
        </Popover.Root>
      )}
    </Field>
  );
}

const written = (values: object | undefined): string =>
  Object.entries(values ?? {})
    .map(([id, value]) => `${id}=${String(value)}`)
    .join(', ');

/** The address of a made-up player, with amounts as people write them. */
export const madeUpParams = ({
  attributes,
  holds,
}: {
  attributes?: object;
  holds?: object;
}): Record<string, string> => ({
  player: MADE_UP,
  attributes: written(attributes),
  holds: written(holds),
});

const STORE = 'made-up players';

function keptRead(): Record<string, MadeUp> {
  try {
    return JSON.parse(sessionStorage.getItem(STORE) ?? '{}') as Record<string, MadeUp>;
  } catch {
    return {};
  }
}

function keptWith(name: string, one: MadeUp): Record<string, MadeUp> {
  const after = { ...keptRead(), [name]: one };
  sessionStorage.setItem(STORE, JSON.stringify(after));
  return after;
}

/** Amounts are in display units. */
function readProfile(
  { attributes, holds }: MadeUp,
  document: EconomyDocument | undefined,
): { profile: Profile } | { problem: string } {
  const labels = documentLabels(document);
  const profile: { attributes: Record<string, Value>; holds: Record<string, number> } = {
    attributes: {},
    holds: {},
  };
  for (const [name, text] of pairs(attributes)) {
    const read = CELLS.value.read(text);
    profile.attributes[name] = (read.ok ? read.value : text) as Value;
  }
  for (const [asset, value] of pairs(holds)) {
    const label = labels(asset);
    if (!label) return { problem: `There is no currency or item "${asset}".` };
    const parsed = unitsParse(value, label.decimals);
    if (!parsed.ok) return { problem: `${asset}: ${parsed.message}. ${parsed.fix}` };
    profile.holds[asset] = parsed.units;
  }
  return { profile };
}

function pairs(text: string): [string, string][] {
  return text
    .split(',')
    .map((part) => part.split('=').map((side) => side.trim()))
    .filter((pair): pair is [string, string] => pair.length === 2 && pair[0] !== '' && pair[1] !== '');
}
