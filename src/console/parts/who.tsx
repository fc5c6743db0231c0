/** Who asks, when, and of which economy: the same questions in Shops and Check, kept in the address. */
import { keepPreviousData } from '@tanstack/react-query';
import type { EconomyDocument } from '../../core/document/index.js';
import { unitsParse } from '../../core/amount/index.js';
import type { Profile } from '../../core/player/index.js';
import { usePlayers } from '../api.js';
import { documentLabels } from '../../core/texts/amounts.js';
import { useParam } from './search.js';
import { Choice, Field, Input } from './ui.js';

export interface Question {
  source: 'live' | 'draft';
  at?: string;
  player?: string;
  profile?: Profile;
  problem?: string;
}

/** The value of the list that stands for a made-up player. */
const MADE_UP = '(made up)';

/** While the answer to a changed question is on its way, the last one stays on the screen. */
export const keepLast = keepPreviousData;

export function useQuestion(document: EconomyDocument | undefined): { question: Question; form: React.ReactNode } {
  const players = usePlayers().data?.items ?? [];
  const [source, setSource] = useParam('source', 'live');
  const [player, setPlayer] = useParam('player', '');
  const [attributes, setAttributes] = useParam('attributes', '');
  const [holds, setHolds] = useParam('holds', '');
  const [at, setAt] = useParam('at', '');
  const chosen = player || players[0]?.id || MADE_UP;
  const madeUp = chosen === MADE_UP ? readProfile(attributes, holds, document) : undefined;
  const question: Question = {
    source: source === 'draft' ? 'draft' : 'live',
    ...(at ? { at } : {}),
    ...(madeUp
      ? 'profile' in madeUp
        ? { profile: madeUp.profile }
        : { problem: madeUp.problem }
      : { player: chosen }),
  };
  const form = (
    <>
      <Field label="Economy">
        {(id) => (
          <Choice
            id={id}
            value={question.source}
            options={[
              { value: 'live', label: 'what is live' },
              { value: 'draft', label: 'the draft' },
            ]}
            onChange={setSource}
          />
        )}
      </Field>
      <Field label="Player">
        {(id) => (
          <Choice
            id={id}
            value={chosen}
            options={[
              ...players.map((one) => ({ value: one.id, label: `${one.name} (${one.id})` })),
              { value: MADE_UP, label: 'A made-up player' },
            ]}
            onChange={setPlayer}
          />
        )}
      </Field>
      {chosen === MADE_UP && (
        <>
          <Field label="Attributes">
            {(id) => (
              <Input
                id={id}
                className="w-36"
                placeholder="level=3"
                value={attributes}
                onChange={(event) => setAttributes(event.target.value)}
              />
            )}
          </Field>
          <Field label="Holds">
            {(id) => (
              <Input
                id={id}
                className="w-52"
                placeholder="shells=500, glide_wax=2"
                value={holds}
                onChange={(event) => setHolds(event.target.value)}
              />
            )}
          </Field>
        </>
      )}
      <Field label={`At (${document?.timeZone ?? '...'}; now when empty)`}>
        {(id) => <Input id={id} type="datetime-local" value={at} onChange={(event) => setAt(event.target.value)} />}
      </Field>
    </>
  );
  return { question, form };
}

/** `level=3, platform=phone` and `shells=500`: amounts in display units. */
function readProfile(
  attributes: string,
  holds: string,
  document: EconomyDocument | undefined,
): { profile: Profile } | { problem: string } {
  const labels = documentLabels(document);
  const profile: { attributes: Record<string, number | string>; holds: Record<string, number> } = {
    attributes: {},
    holds: {},
  };
  for (const [name, value] of pairs(attributes))
    profile.attributes[name] = /^-?\d+(\.\d+)?$/.test(value) ? Number(value) : value;
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
