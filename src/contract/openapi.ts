/** openapi.json, made from the contract and the same schemas that check what goes in and out. */
import { JsonComponents, blockOf, marksOf } from '../core/schema/index.js';
import type { Shape } from '../core/schema/index.js';
import { CONTRACT, KEYS, TAGS } from './contract.js';
import type { Key } from './contract.js';
import { BODY_KB, isMedia, methodOf, pathOf } from './operation.js';
import type { Media, Operation, When } from './operation.js';
import { COMMON_PROBLEMS, PROBLEMS, problemSchemas } from './problem.js';
import type { ProblemKind } from './problem.js';

/** An OpenAPI 3.1 document of everything under /api/v1. */
export function openApiDocument(version: string): object {
  const components = new JsonComponents('#/components/schemas/');
  const paths: Record<string, Record<string, object>> = {};
  for (const key of KEYS)
    (paths[`/api/v1${pathOf(key)}`] ??= {})[methodOf(key).toLowerCase()] = operationOf(key, components);
  return {
    openapi: '3.1.0',
    info: {
      title: 'Dime Stall',
      version,
      description:
        'Amounts are integers of the smallest unit; instants are epoch milliseconds in answers (names end in Ms) and ISO 8601 in questions.',
      license: { name: 'MIT', identifier: 'MIT' },
    },
    servers: [{ url: '/' }],
    security: [{ token: [] }],
    tags: TAGS.map(({ name, description }) => ({ name, description })),
    paths,
    components: {
      securitySchemes: { token: { type: 'http', scheme: 'bearer' } },
      schemas: components.schemas,
    },
  };
}

function operationOf(key: Key, components: JsonComponents): object {
  const operation: Operation = CONTRACT[key];
  const { role, summary, body, bodyKb = BODY_KB } = operation;
  return {
    operationId: operation.id,
    tags: TAGS.filter(({ operations }) => key in operations).map(({ name }) => name),
    summary,
    description: `${role === 'nobody' ? 'Open to everyone.' : `Needs the role ${role}.`}${body ? ` The body may have up to ${bodyKb} kB.` : ''}`,
    ...(role === 'nobody' ? { security: [] } : {}),
    parameters: [
      ...paramsOf(key, operation, components),
      ...Object.entries(operation.query ?? {}).map(([name, schema]) => queryOf(name, schema, components)),
      ...headersOf(operation),
    ],
    ...(body ? { requestBody: { required: true, content: bodyOf(key, body, components) } } : {}),
    responses: { ...answersOf(operation, components), ...problemsOf(operation, components) },
  };
}

const paramsOf = (key: Key, { params = {} }: Operation, components: JsonComponents): object[] =>
  [...pathOf(key).matchAll(/\{(\w+)\}/g)].map(([, name]) => ({
    name,
    in: 'path',
    required: true,
    schema: Object.hasOwn(params, name!) ? components.of(params[name!]!) : { type: 'string' },
  }));

/** What is more than one value is written as JSON. */
function queryOf(name: string, schema: Shape<unknown>, components: JsonComponents): object {
  const { about, ...shape } = { about: marksOf(schema).about, schema: components.of(schema) };
  const isValue = blockOf(schema).kind === 'value';
  return {
    name,
    in: 'query',
    ...(about === undefined ? {} : { description: about }),
    ...(isValue ? shape : { content: { 'application/json': shape } }),
  };
}

function headersOf({ revision, key, resumes }: Operation): object[] {
  const header = (name: string, when: When | undefined, description: string, schema: object): object[] =>
    when === undefined ? [] : [{ name, in: 'header', required: when === 'always', description, schema }];
  return [
    ...header('If-Match', revision, 'The revision that you started from, such as "3"', { type: 'string' }),
    ...header('Idempotency-Key', key, 'New for each thing that a player does, the same for a repeat', {
      type: 'string',
      minLength: 1,
      maxLength: 200,
    }),
    ...(resumes
      ? [
          {
            name: 'Last-Event-ID',
            in: 'header',
            required: false,
            description: 'The id of the last event that came: what was missed since is sent first',
            schema: { type: 'string' },
          },
        ]
      : []),
  ];
}

const bodyOf = (key: Key, body: Shape<unknown> | Media, components: JsonComponents): object =>
  isMedia(body)
    ? { [body.media]: {} }
    : {
        [methodOf(key) === 'PATCH' ? 'application/json-patch+json' : 'application/json']: {
          schema: components.of(body),
        },
      };

function answersOf({ answers, events }: Operation, components: JsonComponents): object {
  if (events)
    return {
      200: {
        description: 'Server-sent events; the data of each is JSON of this shape',
        content: { 'text/event-stream': { schema: components.of(events) } },
      },
    };
  return Object.fromEntries(
    Object.entries(answers).map(([status, answer]) => [
      status,
      {
        description: WORDS[status] ?? 'Done',
        ...(!isMedia(answer)
          ? { content: { 'application/json': { schema: components.of(answer) } } }
          : answer.media === ''
            ? {}
            : { content: { [answer.media]: {} } }),
      },
    ]),
  );
}
const WORDS: Readonly<Record<string, string>> = {
  200: 'Fine; of what is done once per key, what was done before',
  201: 'Made, or done now',
  202: 'Taken up; it goes on in the background',
  204: 'Done',
  304: 'As you have it',
};

/** By status, with what each kind says. */
function problemsOf({ problems = [] }: Operation, components: JsonComponents): object {
  const byStatus = new Map<number, ProblemKind[]>();
  for (const kind of [...COMMON_PROBLEMS, ...problems])
    byStatus.set(PROBLEMS[kind][0], [...(byStatus.get(PROBLEMS[kind][0]) ?? []), kind]);
  return Object.fromEntries(
    [...byStatus].map(([status, kinds]) => {
      const schemas = [
        ...new Map(kinds.map((kind) => [JSON.stringify(components.of(problemSchemas[kind])), kind])).values(),
      ];
      const shapes = schemas.map((kind) => components.of(problemSchemas[kind]));
      return [
        status,
        {
          description: kinds.map((kind) => `${PROBLEMS[kind][1]} (urn:dimestall:${kind})`).join('; '),
          content: { 'application/problem+json': { schema: shapes.length === 1 ? shapes[0] : { anyOf: shapes } } },
        },
      ];
    }),
  );
}
