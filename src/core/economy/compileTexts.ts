/** Texts by language: read once, and held against what a message may fill in. */
import { IntlMessageFormat } from 'intl-messageformat';
import { nearestName } from '../issue/index.js';
import type { DocumentReader, Steps } from './reader.js';
import { BUILT_IN, documentTexts, textArguments } from '../document/index.js';
import type { BuiltInKey } from '../document/index.js';
import type { Message, Texts } from './types.js';

/** The language in which names and descriptions are written where the economy does not say. */
export const DEFAULT_LANGUAGE = 'en';

export function* textsCompile(reader: DocumentReader): Steps<Texts> {
  const { document } = reader;
  const language = document.language ?? DEFAULT_LANGUAGE;
  const messages = new Map<string, Map<string, Message>>();
  const written = Object.entries(document.texts ?? {});
  const known = new Set(written.length === 0 ? [] : documentTexts(document).map(({ key }) => key));
  for (const [tag, texts] of written) {
    const own = new Map<string, Message>();
    messages.set(tag, own);
    for (const [key, text] of Object.entries(texts)) {
      yield;
      if (!known.has(key)) {
        const near = nearestName(key, known);
        reader.issue(
          'dangling-reference',
          ['texts', tag, key],
          `there is no text "${key}": it names nothing that players read`,
          near ? `Did you mean "${near}"?` : 'Write it as item.ID.name, offer.ID.badge or the like, or remove it.',
        );
        continue;
      }
      const message = messageOf(reader, tag, key, text);
      if (message !== undefined) own.set(key, message);
    }
  }
  return { language, messages };
}

/** A text without any of these fills in nothing and says itself; making a message of it would take fifty times as long. */
const FORMAT = /[{}<>'#|]/;

function messageOf(reader: DocumentReader, tag: string, key: string, text: string): Message | undefined {
  if (!FORMAT.test(text)) return text;
  let message: IntlMessageFormat;
  try {
    message = new IntlMessageFormat(text, tag);
  } catch (error) {
    reader.issue(
      'bad-text',
      ['texts', tag, key],
      `it is not in ICU MessageFormat: ${(error as Error).message.split('\n')[0]!.toLowerCase().replaceAll('_', ' ')}`,
      'Check the braces; to write a brace itself, put it between apostrophes.',
    );
    return undefined;
  }
  const allowed = textArguments(key);
  for (const name of argumentsOf(message.getAst()))
    if (!allowed.includes(name))
      reader.issue(
        'bad-text',
        ['texts', tag, key],
        `it fills in {${name}}, and this text has ${allowed.length === 0 ? 'nothing to fill in' : `only ${allowed.join(', ')}`}`,
        nearestName(name, allowed) ? `Did you mean {${nearestName(name, allowed)}}?` : 'Take it out.',
      );
  return message;
}

/** The names that a message fills in, those within its choices too. */
function argumentsOf(ast: ReturnType<IntlMessageFormat['getAst']>): Set<string> {
  const names = new Set<string>();
  const visit = (value: unknown): void => {
    if (Array.isArray(value)) value.forEach(visit);
    else if (typeof value === 'object' && value !== null) {
      const { type, value: name, options, children } = value as Record<string, unknown>;
      // In the package's tree 0 is plain text, 7 the # of a plural; all else is named by what it fills in.
      if (type !== 0 && type !== 7 && type !== 8 && typeof name === 'string') names.add(name);
      visit(children);
      for (const option of Object.values((options ?? {}) as object)) visit((option as { value: unknown }).value);
    }
  };
  visit(ast);
  return names;
}

const builtIn = new Map<BuiltInKey, IntlMessageFormat>();

/** The engine's own words for something, read when they are said first: hardly anybody says all of them. */
export function builtInMessage(key: BuiltInKey): IntlMessageFormat {
  const known = builtIn.get(key) ?? new IntlMessageFormat(BUILT_IN[key], DEFAULT_LANGUAGE);
  builtIn.set(key, known);
  return known;
}
