/** Checks a raw value against a schema and turns every Yup error into an issue with a pointer. */
import * as yup from 'yup';
import { issuesTold, pointerOf } from '../issue/index.js';
import type { Issue } from '../issue/index.js';
import { fitsPlainly } from './block.js';
import type { AnySchema, Shape, ShapeParams } from './block.js';

/** The first issues that `schema` finds in `raw`, and how many more there are; none when it fits. Also used for the bodies of requests. */
export function schemaIssues(shape: Shape<unknown>, raw: unknown): Issue[] {
  if (fitsPlainly(shape, raw)) return [];
  const schema = shape as unknown as AnySchema;
  try {
    schema.validateSync(raw, { abortEarly: false, strict: true });
    return [];
  } catch (error) {
    if (!yup.ValidationError.isError(error)) throw error;
    return issuesTold(leaves(error).map(toIssue));
  }
}

function leaves(error: yup.ValidationError): yup.ValidationError[] {
  return error.inner.length === 0 ? [error] : error.inner.flatMap(leaves);
}

function toIssue(error: yup.ValidationError): Issue {
  const pointer = pointerOf(pathSegments(error.path ?? ''));
  const shape = error.params?.['shape'] as ShapeParams | undefined;
  if (shape) {
    const { code, problem, fix, renamed } = shape;
    return { code, pointer, message: problem, fix, ...(renamed === undefined ? {} : { renamed }) };
  }
  if (error.type === 'optionality' || error.type === 'required' || error.type === 'nullable') {
    const field = pathSegments(error.path ?? '').at(-1);
    return {
      code: 'missing-field',
      pointer,
      message: field === undefined ? 'the document is empty' : `"${field}" is missing`,
      fix: 'Write it.',
    };
  }
  const typed = (error.message as unknown as { shape?: ShapeParams }).shape;
  if (typed) return { code: typed.code, pointer, message: typed.problem, fix: typed.fix };
  return { code: 'wrong-value', pointer, message: error.message, fix: 'See the schema.' };
}

/** Yup's `a.b["c d"][0]` as segments. */
function pathSegments(path: string): string[] {
  const segments: string[] = [];
  for (const match of path.matchAll(/\["((?:[^"\\]|\\.)*)"\]|\[(\d+)\]|([^.[\]]+)/g)) {
    segments.push(match[1] !== undefined ? (JSON.parse(`"${match[1]}"`) as string) : (match[2] ?? match[3])!);
  }
  return segments;
}
