/** What players read in another language: each text beside the original, kept when it is left. */
import { useState } from 'react';
import { documentTexts } from '../../core/document/textKeys.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { useEdits } from '../parts/edits.js';
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
  const [fresh, setFresh] = useState('');
  const texts = document.texts?.[language] ?? {};
  const own = language === (document.language ?? 'en');
  const slots = documentTexts(document).filter(
    ({ key, written }) =>
      (written !== undefined || texts[key] !== undefined || own) &&
      (show !== 'missing' || texts[key] === undefined) &&
      `${key} ${written ?? ''} ${texts[key] ?? ''}`.toLowerCase().includes(find.toLowerCase()),
  );
  const missing = documentTexts(document).filter(
    ({ key, written }) => written !== undefined && texts[key] === undefined,
  );
  const addLanguage = () => {
    edits.apply({
      operations: addOperations(document, 'texts', fresh, {}),
    });
    setLanguage(fresh);
    setFresh('');
  };
  return (
    <div className="flex flex-col gap-2">
      <div className="flex flex-wrap items-end gap-3">
        {tags.length > 0 && (
          <Field label="Language">
            {(id) => (
              <Choice
                id={id}
                value={language}
                options={tags.map((tag) => ({ value: tag, label: tag }))}
                onChange={setLanguage}
              />
            )}
          </Field>
        )}
        <form
          className="flex items-end gap-1"
          onSubmit={(event) => {
            event.preventDefault();
            if (LANGUAGE.test(fresh) && !tags.includes(fresh)) addLanguage();
          }}
        >
          <Field label="New language, such as fr or pt-BR">
            {(id) => (
              <Input id={id} className="w-28" value={fresh} onChange={(event) => setFresh(event.target.value)} />
            )}
          </Field>
          <Button type="submit" disabled={!LANGUAGE.test(fresh) || tags.includes(fresh)}>
            Add language
          </Button>
        </form>
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
            { head: 'text', cell: ({ key }) => <code className="text-sm">{key}</code> },
            { head: 'original', cell: ({ written }) => written ?? '' },
            {
              head: language,
              cell: ({ key }) => (
                <TextInput
                  label={key}
                  value={texts[key]}
                  onKeep={(text) => {
                    const change = fieldOperation(`/texts/${language}`, key, texts[key], text || undefined);
                    if (change) edits.apply({ operations: [change] });
                  }}
                />
              ),
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

function TextInput({
  label,
  value = '',
  onKeep,
}: {
  label: string;
  value: string | undefined;
  onKeep: (text: string) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  const keep = () => {
    if (text !== null && text.trim() !== value) onKeep(text.trim());
    setText(null);
  };
  return (
    <Input
      aria-label={label}
      className="w-full min-w-80"
      value={text ?? value}
      onChange={(event) => setText(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => {
        if (event.key === 'Enter') keep();
        if (event.key === 'Escape') setText(null);
      }}
    />
  );
}
