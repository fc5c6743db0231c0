/** What players read in another language: each text beside the original, kept when it is left. */
import { documentTexts } from '../../core/document/textKeys.js';
import type { TextSlot } from '../../core/document/textKeys.js';
import { valueAt } from '../../core/document/pointers.js';
import type { EconomyDocument, OfferDocument } from '../../core/document/index.js';
import { pointerOf } from '../../core/issue/index.js';
import { offerName } from '../api.js';
import { Picker } from '../fields/Picker.js';
import { ifShown } from '../fields/leaving.js';
import { nameables } from '../fields/nameable.js';
import { useTyped } from '../fields/useTyped.js';
import { WhyRefused } from '../parts/WhyRefused.js';
import { useEdits } from '../parts/edits.js';
import { reasonsAt, withRefused } from '../parts/refused.js';
import { addOperations, fieldOperation } from '../parts/step.js';
import { useParam } from '../parts/search.js';
import { Badge, Button, Choice, DataTable, Empty, Field, Input } from '../parts/ui.js';

/** More rows are not drawn at once; finding narrows them down. */
const MOST_ROWS = 150;
const LANGUAGE = /^[a-z]{2,3}(-[A-Z][a-z]{3})?(-[A-Z]{2})?$/;

export function Texts({ document, find }: { document: EconomyDocument; find: string }) {
  const edits = useEdits();
  const tags = Object.keys(document.texts ?? {});
  const [language, setLanguage] = useParam('language', tags.find((tag) => tag !== (document.language ?? 'en')) ?? '');
  const [show, setShow] = useParam('show', '');
  const saved = document.texts?.[language] ?? {};
  // What was refused goes on standing there.
  const texts = withRefused(document, edits.refused).texts?.[language] ?? {};
  const own = language === (document.language ?? 'en');
  const slots = documentTexts(document).filter(
    (slot) =>
      (slot.written !== undefined || texts[slot.key] !== undefined || own) &&
      (show !== 'missing' || texts[slot.key] === undefined) &&
      [slot.key, slotWords(document, slot), slot.written, texts[slot.key]]
        .join(' ')
        .toLowerCase()
        .includes(find.toLowerCase()),
  );
  const missing = documentTexts(document).filter(
    ({ key, written }) => written !== undefined && texts[key] === undefined,
  );
  const addLanguage = (tag: string) => {
    if (!LANGUAGE.test(tag) || tags.includes(tag)) return;
    edits.apply({ operations: addOperations(document, 'texts', tag, {}) });
    setLanguage(tag);
  };
  const languages = nameables(document, 'language', []);
  return (
    <div className="flex flex-col gap-2">
      <div className="flex flex-wrap items-end gap-3">
        {tags.length > 0 && (
          <Field label="Language">
            {(id) => (
              <Choice
                id={id}
                value={language}
                options={languages
                  .filter(({ id: tag }) => tags.includes(tag))
                  .map(({ id: tag, label }) => ({ value: tag, label: `${label} (${tag})` }))}
                onChange={setLanguage}
              />
            )}
          </Field>
        )}
        <Field label="Another language">
          {(id) => (
            <Picker
              id={id}
              options={languages.filter(({ id: tag }) => !tags.includes(tag))}
              word="language"
              value={undefined}
              adding
              onPick={(tag) => tag !== undefined && addLanguage(tag)}
              onMake={addLanguage}
            />
          )}
        </Field>
        {language !== '' && (
          <Button aria-pressed={show === 'missing'} onClick={() => setShow(show === 'missing' ? '' : 'missing')}>
            {show === 'missing' ? 'All texts' : 'Only what is missing'}
          </Button>
        )}
        {language !== '' && !own && (
          <Badge tone={missing.length > 0 ? 'care' : 'good'}>
            {missing.length === 0 ? 'nothing is missing' : `${missing.length} missing`}
          </Badge>
        )}
      </div>
      {language === '' ? (
        <Empty>
          There is no other language yet. Add one above; until then all players read the economy’s own names.
        </Empty>
      ) : (
        <DataTable
          label={`Texts in ${language}`}
          rows={slots.slice(0, MOST_ROWS)}
          rowKey={({ key }) => `${language} ${key}`}
          columns={[
            { head: 'text', cell: (slot) => <span title={slot.key}>{slotWords(document, slot)}</span> },
            { head: 'original', cell: ({ written }) => written ?? '' },
            {
              head: language,
              cell: (slot) => {
                const { key } = slot;
                const pointer = pointerOf(['texts', language, key]);
                const reasons = reasonsAt(edits.refused, pointer, true);
                return (
                  <>
                    <TextInput
                      label={slotWords(document, slot)}
                      value={texts[key]}
                      onKeep={(text) => {
                        edits.forget(pointer);
                        const change = fieldOperation(`/texts/${language}`, key, saved[key], text || undefined);
                        if (change) edits.apply({ operations: [change] });
                      }}
                    />
                    {reasons.length > 0 && <WhyRefused pointer={pointer} reasons={reasons} />}
                  </>
                );
              },
            },
          ]}
        />
      )}
      {slots.length > MOST_ROWS && (
        <p className="text-sm text-soft">{slots.length - MOST_ROWS} more: find what you look for above.</p>
      )}
    </div>
  );
}

/** "Oak Reel, name"; what the engine says itself by its key: "refused, short-of". */
function slotWords(document: EconomyDocument, { key, path }: TextSlot): string {
  const parts = key.split('.');
  if (path.length === 0) return parts.join(', ');
  const thing = valueAt(document, path) as { name?: string; gives?: unknown };
  const id = path.at(-1)!;
  const name = path[4] === 'offers' ? offerName(document, id, thing as OfferDocument) : (thing.name ?? id);
  return `${name}, ${parts.at(-1)!}`;
}

function TextInput({
  label,
  value = '',
  onKeep,
}: {
  label: string;
  value: string | undefined;
  onKeep: (text: string) => void;
}) {
  const field = useTyped(value, (typed) => {
    onKeep(typed.trim());
    return undefined;
  });
  return (
    <Input
      aria-label={label}
      className="w-full min-w-80"
      value={field.shown}
      onChange={(event) => field.type(event.target.value)}
      onBlur={ifShown(field.keep)}
      onKeyDown={field.onKeyDown}
    />
  );
}
