/** openapi.json, made from the route table and the same Yup schemas that check the bodies. */
import { economyJsonSchema } from '../core/document/index.js';
import { schemaToJson } from '../core/schema/index.js';
import { BODY_SCHEMAS, ROUTES } from './routes/index.js';
import type { Route } from './route.js';

export function openApiDocument(version: string): object {
  const paths: Record<string, Record<string, object>> = {};
  for (const route of ROUTES) (paths[`/api/v1${route.path}`] ??= {})[route.method] = operation(route);
  const { $schema: _, $defs, ...economy } = economyJsonSchema() as { $schema: string; $defs: Record<string, object> };
  return {
    openapi: '3.1.0',
    info: {
      title: 'Dime Stall',
      version,
      description:
        'Amounts are integers of the smallest unit; instants are epoch milliseconds in answers (names end in Ms) and ISO 8601 in questions.',
      license: { name: 'MIT', identifier: 'MIT' },
    },
    paths,
    components: {
      securitySchemes: { token: { type: 'http', scheme: 'bearer' } },
      schemas: {
        Problem: {
          type: 'object',
          description: 'RFC 9457 problem details',
          required: ['type', 'title', 'status', 'detail'],
          properties: {
            type: { type: 'string' },
            title: { type: 'string' },
            status: { type: 'integer' },
            detail: { type: 'string' },
            errors: {
              type: 'array',
              items: {
                type: 'object',
                properties: {
                  pointer: { type: 'string' },
                  code: { type: 'string' },
                  detail: { type: 'string' },
                  fix: { type: 'string' },
                },
              },
            },
          },
        },
        Economy: { ...economy, $defs },
        ...Object.fromEntries(Object.entries(BODY_SCHEMAS).map(([name, schema]) => [name, schemaToJson(schema)])),
      },
    },
  };
}

function operation(route: Route): object {
  const inPath = [...route.path.matchAll(/\{(\w+)\}/g)].map(([, name]) => ({
    name,
    in: 'path',
    required: true,
    schema: { type: 'string' },
  }));
  const inQuery = Object.entries(route.query ?? {}).map(([name, description]) => ({
    name,
    in: 'query',
    description,
    schema: { type: 'string' },
  }));
  const body = route.body
    ? schemaToJson(route.body)
    : route.method === 'put' && route.path === '/draft'
      ? { $ref: '#/components/schemas/Economy' }
      : route.method === 'patch'
        ? { type: 'array', items: { type: 'object' } }
        : undefined;
  return {
    operationId: `${route.method}${route.path.replace(/[/{}]+(\w)?/g, (_, letter: string | undefined) => (letter ?? '').toUpperCase())}`,
    summary: route.summary,
    ...(route.needs === 'nobody' ? {} : { security: [{ token: [] }], description: `Needs the role ${route.needs}.` }),
    parameters: [...inPath, ...inQuery],
    ...(route.consumes
      ? {
          requestBody: {
            required: true,
            content: { [route.consumes]: { schema: { type: 'string', format: 'binary' } } },
          },
        }
      : {}),
    ...(body
      ? {
          requestBody: {
            required: true,
            content: {
              [route.method === 'patch' ? 'application/json-patch+json' : 'application/json']: { schema: body },
            },
          },
        }
      : {}),
    responses: {
      '2XX': { description: 'Done', content: { [route.stream ? 'text/event-stream' : 'application/json']: {} } },
      default: {
        description: 'Problem details',
        content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
      },
    },
  };
}
