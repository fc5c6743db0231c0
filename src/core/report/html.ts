/** HTML that is put together safely: what stands in it as text is escaped. */

/** Markup, as opposed to a text. */
export class Html {
  constructor(readonly markup: string) {}
}

type Part = Html | string | number | undefined | readonly Part[];

const ENTITIES: Readonly<Record<string, string>> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&#39;',
};
/** Whether a sign may stand in XML at all, escaped or not. */
export const isXml = (sign: string): boolean =>
  /^[\t\n\r\u{20}-\u{D7FF}\u{E000}-\u{FFFD}\u{10000}-\u{10FFFF}]$/u.test(sign);
const escaped = (text: string): string => text.replace(/[&<>"']/g, (sign) => ENTITIES[sign]!);

function markupOf(part: Part): string {
  if (part === undefined) return '';
  if (part instanceof Html) return part.markup;
  if (typeof part === 'object') return part.map(markupOf).join('');
  return escaped(String(part));
}

/** A piece of a page: texts and numbers that are put in are escaped, pieces are not. Its markup stays as it is written. */
export const piece = (texts: TemplateStringsArray, ...parts: readonly Part[]): Html =>
  new Html(texts.reduce((all, text, place) => all + text + markupOf(parts[place]), ''));

/** An element with its attributes; numbers to a tenth, which is more than a picture shows. What is undefined is left out. */
export function element(
  tag: string,
  attributes: Readonly<Record<string, string | number | undefined>>,
  inner?: Part,
): Html {
  const written = Object.entries(attributes).flatMap(([name, value]) =>
    value === undefined ? [] : [piece` ${name}="${typeof value === 'number' ? Math.round(10 * value) / 10 : value}"`],
  );
  return new Html(`<${tag}${markupOf(written)}>${markupOf(inner)}</${tag}>`);
}
