/** Try it: what events would do for a player, each rule, goal and track, and what an hour of it comes to. Nothing is saved. */
import { useQuery } from '@tanstack/react-query';
import type { TriedView } from '../../contract/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { tryLinesRead, tryLinesWrite } from '../../core/earning/tryText.js';
import type { TryLine } from '../../core/earning/tryText.js';
import { unitsFormat } from '../../core/amount/index.js';
import { documentLabels } from '../../core/texts/amounts.js';
import type { AssetLabels } from '../../core/texts/index.js';
import { goalWords, progressSentence, trackWords } from '../../core/texts/progress.js';
import { triedColumns, triedOtherwise } from '../../core/texts/tried.js';
import { client } from '../api.js';
import { eventFields } from '../parts/eventFields.js';
import { shown } from '../parts/shown.js';
import { useParam } from '../parts/search.js';
import { Button, Choice, DataTable, Empty, Field, Input, Problem, Sheet } from '../parts/ui.js';
import { keepLast, useQuestion } from '../parts/who.js';

const MOST_TIMES = 10_000;

export function TryIt({ document }: { document: EconomyDocument }) {
  const { question, form } = useQuestion(document);
  const events = Object.entries(document.events ?? {});
  const [text, setText] = useParam('events', '');
  const [first] = events;
  const read = tryLinesRead(text);
  const lines = read.length === 0 && first ? [lineOf(document, first[0])] : read;
  const problem = question.problem ?? lines.map((line) => wrong(document, line)).find((one) => one !== undefined);
  const asked = { ...question, lines };
  const { data, error } = useQuery({
    queryKey: ['tries', asked],
    enabled: lines.length > 0 && problem === undefined,
    placeholderData: keepLast,
    queryFn: () => {
      const { source, at, player, profile } = question;
      return client.call('POST /tries', {
        body: {
          source,
          ...(at === undefined ? {} : { at }),
          ...(player === undefined
            ? { profile: { attributes: { ...profile?.attributes }, holds: { ...profile?.holds } } }
            : { player }),
          events: lines.map(({ name, fields, times }) => ({ name, fields: valuesOf(document, name, fields), times })),
        },
      });
    },
  });
  if (!first) return <Empty>What your game reports comes first: name an event under Events.</Empty>;
  const put = (after: readonly TryLine[]): void => setText(tryLinesWrite(after));
  const change = (place: number, line: TryLine): void => put(lines.map((one, at) => (at === place ? line : one)));
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap items-end gap-3">{form}</div>
      <Sheet title="What happens">
        <div className="flex flex-col gap-2">
          {lines.map((line, place) => (
            <Line
              key={place}
              number={place + 1}
              document={document}
              line={line}
              onChange={(next) => change(place, next)}
              {...(lines.length > 1 ? { onRemove: () => put(lines.filter((one) => one !== line)) } : {})}
            />
          ))}
          <Button className="self-start" onClick={() => put([...lines, lineOf(document, first[0])])}>
            And another event
          </Button>
        </div>
      </Sheet>
      {problem !== undefined && <p className="text-brick">{problem}</p>}
      <Problem error={problem === undefined ? error : null} />
      {data && problem === undefined && <Outcome tried={data} labels={documentLabels(document)} />}
    </div>
  );
}

/** An event with something in each of its fields. */
const lineOf = (document: EconomyDocument, name: string): TryLine => ({
  name,
  fields: Object.fromEntries(Object.entries(eventFields(document, name)).map(([field, value]) => [field, `${value}`])),
  times: 1,
});

const fieldsOf = ({ events }: EconomyDocument, name: string): [string, string][] =>
  Object.entries(events?.[name]?.fields ?? {});

const valuesOf = (
  document: EconomyDocument,
  name: string,
  fields: TryLine['fields'],
): Record<string, number | string> =>
  Object.fromEntries(
    fieldsOf(document, name).map(([field, type]) => [
      field,
      type === 'number' ? Number(fields[field]) : (fields[field] ?? ''),
    ]),
  );

/** What keeps an event from being tried. */
function wrong(document: EconomyDocument, { name, fields, times }: TryLine): string | undefined {
  if (!document.events?.[name]) return `There is no event "${name}".`;
  const odd = fieldsOf(document, name).find(
    ([field, type]) =>
      type === 'number' && ((fields[field] ?? '').trim() === '' || !Number.isFinite(Number(fields[field]))),
  );
  if (odd) return `${odd[0]} is a number.`;
  return times > MOST_TIMES ? `${MOST_TIMES.toLocaleString('en')} times are the most that are tried.` : undefined;
}

function Line({
  number,
  document,
  line,
  onChange,
  onRemove,
}: {
  number: number;
  document: EconomyDocument;
  line: TryLine;
  onChange: (line: TryLine) => void;
  onRemove?: () => void;
}) {
  return (
    <div role="group" aria-label={`Event ${number}`} className="flex flex-wrap items-end gap-3">
      <Field label="Event">
        {(id) => (
          <Choice
            id={id}
            value={line.name}
            options={Object.entries(document.events ?? {}).map(([value, { name }]) => ({
              value,
              label: name ?? value,
            }))}
            onChange={(name) => onChange({ ...lineOf(document, name), times: line.times })}
          />
        )}
      </Field>
      {fieldsOf(document, line.name).map(([field, type]) => (
        <Field key={field} label={field}>
          {(id) => (
            <Input
              id={id}
              className="w-28"
              inputMode={type === 'number' ? 'decimal' : 'text'}
              value={line.fields[field] ?? ''}
              onChange={({ target }) => onChange({ ...line, fields: { ...line.fields, [field]: target.value } })}
            />
          )}
        </Field>
      ))}
      <Field label="times">
        {(id) => (
          <Input
            id={id}
            className="w-24"
            inputMode="numeric"
            value={String(line.times)}
            onChange={({ target }) => onChange({ ...line, times: Math.max(1, Math.floor(Number(target.value)) || 1) })}
          />
        )}
      </Field>
      {onRemove && (
        <Button aria-label={`Without event ${number}`} onClick={onRemove}>
          ×
        </Button>
      )}
    </div>
  );
}

type RuleRow = TriedView['rules'][number];

const OFTEN: readonly string[] = ['never', 'once', 'twice'];

function Outcome({ tried, labels }: { tried: TriedView; labels: AssetLabels }) {
  const { events, minutes, rules, progress, net, perHour, goals, tracks } = tried;
  const standing = [...tracks.map((one) => trackWords(labels, one)), ...goals.map((one) => goalWords(labels, one))];
  return (
    <div className="flex flex-wrap items-start gap-3" aria-label="What it would do" role="region">
      <Sheet title="Rules" className="min-w-[560px] flex-1">
        <DataTable<RuleRow>
          label="Rules"
          rows={rules}
          rowKey={({ rule }) => rule}
          columns={[
            { head: 'rule', cell: ({ name }) => name },
            { head: 'paid', right: true, cell: ({ paid }) => OFTEN[paid] ?? `${paid} times` },
            ...triedColumns(labels, rules).map(({ head, text }) => ({ head, cell: text })),
            { head: 'otherwise', cell: triedOtherwise },
          ]}
        />
        {rules.length === 0 && <p className="text-soft">No rule listens to this.</p>}
      </Sheet>
      <Sheet title="It comes to" className="min-w-[280px]">
        <p className="mb-1 text-sm text-soft">
          {events.toLocaleString('en')} {events === 1 ? 'event' : 'events'}
          {minutes === null
            ? '; no activity ends with it, so that no time is told'
            : `, ${shown(minutes)} minutes of play`}
        </p>
        <DataTable
          label="It comes to"
          rows={Object.entries(net)}
          rowKey={([asset]) => asset}
          columns={[
            { head: '', cell: ([asset]) => labels(asset)?.name ?? asset },
            { head: 'in all', right: true, cell: ([asset, units]) => unitsFormat(units, labels(asset)?.decimals ?? 0) },
            {
              head: 'an hour',
              right: true,
              cell: ([asset]) =>
                perHour
                  ? (perHour[asset]! / 10 ** (labels(asset)?.decimals ?? 0)).toLocaleString('en', {
                      maximumFractionDigits: 2,
                    })
                  : '',
            },
          ]}
        />
      </Sheet>
      {(progress.length > 0 || standing.length > 0) && (
        <Sheet title="Goals and levels" className="min-w-[280px] flex-1">
          <ul>
            {progress.map((one, place) => (
              <li key={place} className="font-semibold">
                {progressSentence(labels, one)}
              </li>
            ))}
          </ul>
          {standing.length > 0 && <p className="mt-1 text-sm text-soft">Afterwards: {standing.join('; ')}</p>}
        </Sheet>
      )}
    </div>
  );
}
