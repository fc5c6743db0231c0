/** The shape of texts: by language, then by key. What a key may be is in `textKeys`. */
import { checked, inForms, mapOf, said, text } from '../schema/index.js';
import type { KeyRule } from '../schema/index.js';

const LANGUAGE = /^[a-z]{2,3}(-[A-Z][a-z]{3})?(-[A-Z]{2})?$/;

/** A BCP 47 tag of language, script and region, such as `pt` or `pt-BR`. */
export const languageTag = () =>
  inForms(
    'language',
    checked<string>({ type: 'string', pattern: LANGUAGE.source }, (value) =>
      typeof value === 'string' && LANGUAGE.test(value)
        ? undefined
        : { problem: `${JSON.stringify(value)} is not a language`, fix: 'Write a tag such as en, pt or pt-BR.' },
    ),
  );

export const LANGUAGE_KEYS: KeyRule = {
  test: (key) => LANGUAGE.test(key),
  rule: 'texts are by language, such as pt or pt-BR',
  pattern: LANGUAGE.source,
};

const KEY = /^[a-z]+(-[a-z]+)*(\.[a-z][a-z0-9_-]*)*$/;

export const textsSchema = () =>
  mapOf(
    mapOf(said('Text', 'What players read, in ICU MessageFormat.', text(1000)), {
      test: (key) => KEY.test(key),
      rule: 'a text is named by a key such as item.storm_frame.name or ask',
      pattern: KEY.source,
    }),
    LANGUAGE_KEYS,
  );
