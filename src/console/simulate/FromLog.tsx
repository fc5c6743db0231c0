/** What a game recorded, brought in from a file: purchases on the draft's prices, or personas that play as its players did. */
import { useRef, useState } from 'react';
import { Link } from 'react-router';
import type { EconomyDocument } from '../../core/document/index.js';
import { purchasesRecorded } from '../../client/index.js';
import { client, useDraft } from '../api.js';
import { useParam } from '../parts/search.js';
import { Button, Choice, Field, Input, Problem, Waiting } from '../parts/ui.js';
import type { LogAsked, LogBroken, OrderKind, Orders, RecordedAsked } from './desk/orders.js';
import { FitReport } from './FitReport.js';
import { ReplayReport } from './ReplayReport.js';
import { useDesk } from './useDesk.js';
import type { DeskFor } from './useDesk.js';

/** Larger files are not opened: with what is worked out of them they would not fit into memory. */
const MOST_MB = 200;
/** The choice that stands for no attribute. */
const NONE = '(none)';

const KINDS = [
  {
    id: 'replay',
    words: 'Replay purchases',
    says: 'Makes recorded purchases again on the prices of the draft: what would be refused now and why, what each would cost, and what changes in sum.',
  },
  {
    id: 'fit',
    words: 'Fit personas',
    says: 'Finds kinds of players in a log of events and purchases, and a persona for each: how often they play, what, how they spend and when they leave.',
  },
] as const;
type Kind = (typeof KINDS)[number]['id'];

export function FromLog() {
  const document = useDraft().data?.document;
  return document ? <OfDraft document={document} /> : <Waiting />;
}

function OfDraft({ document }: { document: EconomyDocument }) {
  const at = useDesk(document);
  // The bench is what stands where there is no view.
  const [wanted, setKind] = useParam('view', '');
  const kind: Kind = wanted === 'fit' ? 'fit' : 'replay';
  const [file, setFile] = useState<File>();
  const [from, setFrom] = useParam('from', 'file');
  const isOwn = kind === 'replay' && from === 'service';
  return (
    <div className="flex flex-col gap-3">
      <div className="flex items-baseline gap-4">
        <h1 className="text-2xl">From a log</h1>
        <Link className="underline" to="/simulate">
          Back to the bench
        </Link>
      </div>
      <div role="group" aria-label="What to do with it" className="flex gap-1">
        {KINDS.map(({ id, words }) => (
          <button
            key={id}
            type="button"
            aria-pressed={kind === id}
            onClick={() => setKind(id)}
            className={`rounded-tag border border-line px-3 py-1 font-semibold ${kind === id ? 'bg-ink text-paper' : ''}`}
          >
            {words}
          </button>
        ))}
      </div>
      <p className="max-w-3xl text-soft">
        {KINDS.find(({ id }) => id === kind)!.says}{' '}
        {isOwn
          ? 'The purchases that this service keeps, of all players; their attributes are those of today.'
          : `NDJSON or CSV, packed by gzip or not, ${MOST_MB} MB at most; it stays in this browser.`}
      </p>
      {kind === 'replay' && (
        <fieldset className="flex gap-4">
          <legend className="sr-only">Whose purchases</legend>
          {SOURCES.map(({ id, words }) => (
            <label key={id} className="flex items-baseline gap-1.5">
              <input type="radio" name="from" checked={isOwn === (id === 'service')} onChange={() => setFrom(id)} />
              {words}
            </label>
          ))}
        </fieldset>
      )}
      {!isOwn && <LogFile file={file} onFile={setFile} />}
      {at &&
        (kind === 'replay' ? (
          <Asking
            key={`replay ${from}`}
            kind="replay"
            words="Replay"
            at={at}
            log={isOwn ? 'service' : file}
            document={document}
          >
            {(answer) => <ReplayReport answer={answer} document={document} />}
          </Asking>
        ) : (
          <Asking key="fit" kind="fit" words="Fit" at={at} log={file} document={document} canCount>
            {(answer) => <FitReport answer={answer} document={document} name={file?.name ?? 'a log'} />}
          </Asking>
        ))}
    </div>
  );
}

const SOURCES = [
  { id: 'file', words: 'of a file' },
  { id: 'service', words: 'of this service' },
];

function LogFile({ file, onFile }: { file: File | undefined; onFile: (file: File) => void }) {
  return (
    <div className="flex items-center gap-3">
      <label className="cursor-pointer rounded-tag border border-line bg-sheet px-3 py-1 font-semibold focus-within:outline-2 focus-within:outline-copper hover:bg-sunk">
        {file ? 'Another file ...' : 'Choose a file ...'}
        <input
          type="file"
          aria-label="Log file"
          className="sr-only"
          accept=".csv,.ndjson,.jsonl,.json,.gz"
          onChange={({ target }) => {
            const [chosen] = target.files ?? [];
            if (chosen) onFile(chosen);
            target.value = '';
          }}
        />
      </label>
      {file && (
        <span>
          <strong>{file.name}</strong>, {(file.size / 1e6).toFixed(file.size < 1e6 ? 2 : 1)} MB
        </span>
      )}
    </div>
  );
}

type LogKind = Extract<OrderKind, 'replay' | 'fit'>;
type Read<K extends LogKind> = Exclude<Orders[K]['answer'], LogBroken>;

type Asked<K extends LogKind> =
  | { at: 'rest' }
  | { at: 'work'; read: number; done: number; of: number }
  | { at: 'failed'; error: unknown }
  | { at: 'answered'; answer: Orders[K]['answer'] };

/** What to say about the file, the way to begin, and what came of it. */
function Asking<K extends LogKind>({
  kind,
  words,
  at: { desk, document },
  log,
  canCount = false,
  children,
}: {
  kind: K;
  words: string;
  at: DeskFor;
  /** A file, or what the service keeps. */
  log: File | 'service' | undefined;
  document: EconomyDocument;
  /** Whether groups may be counted, where they are not by an attribute. */
  canCount?: boolean;
  children: (answer: Read<K>) => React.ReactNode;
}) {
  const [by, setBy] = useState(NONE);
  const [groups, setGroups] = useState('');
  const [asked, setAsked] = useState<Asked<K>>({ at: 'rest' });
  /** Counts what was begun, and what was stopped: an older one is left. */
  const newest = useRef(0);
  const attributes = Object.entries(document.attributes ?? {});
  const file = log === 'service' ? undefined : log;
  const isTooLarge = file !== undefined && file.size > MOST_MB * 1e6;
  const order = async (skipBroken: boolean, number: number): Promise<LogAsked | RecordedAsked> => {
    const count = Number(groups);
    const sums = by === NONE ? {} : { by };
    if (file === undefined)
      return {
        recorded: await purchasesRecorded(client, (read) => {
          if (number === newest.current) setAsked({ at: 'work', read, done: 0, of: 0 });
        }),
        ...sums,
      };
    return {
      log: file,
      skipBroken,
      ...sums,
      ...(by === NONE && Number.isInteger(count) && count >= 1 ? { groups: Math.min(12, count) } : {}),
    };
  };
  const begin = async (skipBroken: boolean): Promise<void> => {
    const number = ++newest.current;
    setAsked({ at: 'work', read: 0, done: 0, of: 0 });
    try {
      const one = await order(skipBroken, number);
      if (number !== newest.current) return;
      const answer = await desk.later(document, kind, one as Orders[K]['asked'], ({ done, of }) =>
        setAsked({ at: 'work', read: 0, done, of }),
      );
      setAsked({ at: 'answered', answer });
    } catch (error) {
      if (number === newest.current) setAsked({ at: 'failed', error });
    }
  };
  const stop = (): void => {
    newest.current++;
    desk.close();
    setAsked({ at: 'rest' });
  };
  return (
    <>
      <div className="flex flex-wrap items-end gap-3">
        {attributes.length > 0 && (
          <Field label={canCount ? 'Groups by' : 'Sums by'}>
            {(id) => (
              <Choice
                id={id}
                value={by}
                options={[
                  { value: NONE, label: canCount ? 'how they play' : 'offer alone' },
                  ...attributes.map(([attribute, { name }]) => ({ value: attribute, label: name ?? attribute })),
                ]}
                onChange={setBy}
              />
            )}
          </Field>
        )}
        {canCount && by === NONE && (
          <Field label="How many groups">
            {(id) => (
              <Input
                id={id}
                className="w-44"
                inputMode="numeric"
                placeholder="as many as are apart"
                value={groups}
                onChange={({ target }) => setGroups(target.value)}
              />
            )}
          </Field>
        )}
        <Button
          look={asked.at === 'work' ? 'plain' : 'primary'}
          disabled={log === undefined || isTooLarge}
          onClick={() => (asked.at === 'work' ? stop() : void begin(false))}
        >
          {asked.at === 'work' ? 'Stop' : words}
        </Button>
        {asked.at === 'work' && (
          <span role="status" className="py-1 text-soft">
            {asked.of > 0 ? `${asked.done} of about ${asked.of} runs` : reading(asked.read)}
          </span>
        )}
      </div>
      {isTooLarge && (
        <Problem
          error={
            new Error(
              `This file has ${Math.round(file.size / 1e6)} MB; ${MOST_MB} MB are the most. Split it, by days or players.`,
            )
          }
        />
      )}
      {asked.at === 'failed' && <Problem error={asked.error} />}
      {asked.at === 'answered' &&
        (asked.answer.kind === 'broken' ? (
          <Broken broken={asked.answer} onSkip={() => void begin(true)} />
        ) : (
          children(asked.answer as Read<K>)
        ))}
    </>
  );
}

const reading = (purchases: number): string =>
  purchases === 0 ? 'reading' : `reading, ${purchases.toLocaleString('en')} purchases so far`;

function Broken({ broken: { lines, count }, onSkip }: { broken: LogBroken; onSkip: () => void }) {
  return (
    <Problem
      error={
        new Error(`${count.toLocaleString('en')} ${count === 1 ? 'line' : 'lines'} cannot be read; nothing was done.`)
      }
    >
      <ul className="my-1 list-disc pl-5">
        {lines.map(({ line, problem }) => (
          <li key={line}>
            line {line}: {problem}
          </li>
        ))}
        {count > lines.length && <li>and {(count - lines.length).toLocaleString('en')} more</li>}
      </ul>
      <Button onClick={onSkip}>Leave them out</Button>
    </Problem>
  );
}
