/** Where there is nothing yet: what the economy is called and where it is, a small one to begin with, or files that are there. */
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { EconomyDocument } from '../../core/document/index.js';
import { client } from '../api.js';
import { SchemaForm } from '../parts/SchemaForm.js';
import { Button, Problem, Sheet } from '../parts/ui.js';
import { STARTERS } from './starters.js';

const MOST_FILES = 500;
const IS_ECONOMY = /\.(ya?ml|json)$/i;

export default function Begin({ document, revision }: { document: EconomyDocument; revision: number }) {
  const queries = useQueryClient();
  const [error, setError] = useState<unknown>(null);
  const bringIn = (files: { path: string; text: string }[], why: string): void => {
    setError(null);
    client
      .call('POST /draft/import', { body: { files }, revision, query: { why } })
      .then(() => queries.invalidateQueries(), setError);
  };
  const read = async (list: FileList): Promise<void> => {
    const chosen = [...list].filter(({ name }) => IS_ECONOMY.test(name)).slice(0, MOST_FILES);
    if (chosen.length === 0) {
      setError(new Error('None of these is a YAML or JSON file: choose the folder that the economy stands in.'));
      return;
    }
    const files = await Promise.all(
      chosen.map(async (file) => ({ path: file.webkitRelativePath || file.name, text: await file.text() })),
    );
    bringIn(files, `from ${files.length} files`);
  };
  return (
    <div className="grid gap-3 lg:grid-cols-2">
      <Sheet title="Your economy">
        <SchemaForm pointer="" value={document} without={Object.keys(REST)} />
      </Sheet>
      <Sheet title="Or begin with a small one">
        <ul className="flex flex-col gap-2">
          {STARTERS.map(({ id, name, words, files }) => (
            <li key={id} className="flex items-start gap-3 border-b border-line/50 pb-2">
              <span className="flex-1">
                <span className="font-semibold">{name}</span>
                <br />
                <span className="text-sm text-soft">{words}</span>
              </span>
              <Button onClick={() => bringIn(files, name)} aria-label={`Begin with: ${name}`}>
                Begin with it
              </Button>
            </li>
          ))}
          <li className="flex flex-wrap items-center gap-3">
            <span className="flex-1">
              <span className="font-semibold">Files that you have</span>
              <br />
              <span className="text-sm text-soft">Economy files in YAML or JSON, one or many, or their folder.</span>
            </span>
            <FilesButton words="Choose files" onChosen={read} onError={setError} />
            <FilesButton words="Choose a folder" folder onChosen={read} onError={setError} />
          </li>
        </ul>
        <Problem error={error} />
      </Sheet>
    </div>
  );
}

/** Told in their own rooms. */
const REST: Record<Exclude<keyof EconomyDocument, 'name' | 'timeZone' | 'language'>, true> = {
  seed: true,
  attributes: true,
  events: true,
  groups: true,
  currencies: true,
  items: true,
  loot: true,
  stores: true,
  shops: true,
  sales: true,
  texts: true,
  earning: true,
  activities: true,
  personas: true,
  scenarios: true,
  audit: true,
};

function FilesButton({
  words,
  folder = false,
  onChosen,
  onError,
}: {
  words: string;
  folder?: boolean;
  onChosen: (files: FileList) => Promise<void>;
  onError: (error: unknown) => void;
}) {
  return (
    <label className="cursor-pointer rounded-tag border border-line bg-sheet px-3 py-1 font-semibold focus-within:outline-2 focus-within:outline-copper hover:bg-sunk">
      {words}
      <input
        type="file"
        multiple
        className="sr-only"
        {...(folder ? { webkitdirectory: '' } : { accept: '.yaml,.yml,.json' })}
        onChange={({ target }) => {
          if (target.files && target.files.length > 0) onChosen(target.files).catch(onError);
          target.value = '';
        }}
      />
    </label>
  );
}
