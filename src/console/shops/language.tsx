/** In whose words a shop is read: the designer's, with every number, or a player's in a language. Kept in the address. */
import type { ReactNode } from 'react';
import type { EconomyDocument } from '../../core/document/index.js';
import { useParam } from '../parts/search.js';
import { Choice, Field } from '../parts/ui.js';

/** Stands for sentences with every number, as designers read them. */
const DESIGNER = '(designer)';

export function useLanguage(document: EconomyDocument | undefined): { language: string; choice: ReactNode } {
  const [language, setLanguage] = useParam('language', '');
  const languages = [...new Set([document?.language ?? 'en', ...Object.keys(document?.texts ?? {})])];
  const choice = (
    <Field label="In the words of">
      {(id) => (
        <Choice
          id={id}
          value={language || DESIGNER}
          options={[
            { value: DESIGNER, label: 'the designer' },
            ...languages.map((tag) => ({ value: tag, label: `the player: ${tag}` })),
          ]}
          onChange={(next) => setLanguage(next === DESIGNER ? '' : next)}
        />
      )}
    </Field>
  );
  return { language, choice };
}
