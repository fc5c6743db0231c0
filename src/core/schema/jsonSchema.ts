/** JSON Schema (2020-12) from Yup schemas: files, API and editors all check the same shape. */
import { blockOf, fieldsOf, isOptional, marksOf } from './block.js';
import type { Shape } from './block.js';

/** Collects the components that schemas name, and says how one refers to them. */
export class JsonComponents {
  readonly schemas: Record<string, object> = {};

  /** `at` leads to the components, such as `#/$defs/`. */
  constructor(private readonly at: string) {}

  /** A schema, or the reference to the component that it is. The same name must always stand for the same shape. */
  of(schema: Shape<unknown>): object {
    const { name } = marksOf(schema);
    if (name === undefined) return { ...this.shape(schema), ...notes(schema) };
    if (!Object.hasOwn(this.schemas, name)) {
      // Set first, so that a shape that holds itself ends here.
      this.schemas[name] = {};
      this.schemas[name] = this.shape(schema);
    }
    return { $ref: `${this.at}${name}`, ...notes(schema) };
  }

  /** The schema itself, whatever it is called; what it holds may refer to components. */
  shape(schema: Shape<unknown>): object {
    const block = blockOf(schema);
    switch (block.kind) {
      case 'value':
        return block.json;
      case 'map':
        return {
          type: 'object',
          propertyNames: { pattern: block.keys.pattern },
          additionalProperties: this.of(block.inner),
          ...(block.most === undefined ? {} : { maxProperties: block.most }),
        };
      case 'list':
        return {
          type: 'array',
          items: this.of(block.inner),
          ...(block.least > 0 ? { minItems: block.least } : {}),
          maxItems: block.most,
        };
      case 'either':
        return { anyOf: block.options.map((option) => this.of(option.schema)) };
      case 'fields': {
        const inner = Object.entries(fieldsOf(schema));
        const required = inner.filter(([, field]) => !isOptional(field)).map(([name]) => name);
        return {
          type: 'object',
          additionalProperties: false,
          ...(required.length > 0 ? { required } : {}),
          properties: Object.fromEntries(inner.map(([name, field]) => [name, this.of(field)])),
        };
      }
    }
  }
}

/** What a schema says beside its shape: its name for people, help, how it is written, and what its values or keys name. */
function notes(schema: Shape<unknown>): object {
  const { label, about, cell, form, options } = marksOf(schema);
  const block = blockOf(schema);
  const names = block.kind === 'value' ? block.ref : block.kind === 'map' ? block.keys.ref : undefined;
  return {
    ...(label === undefined ? {} : { title: label }),
    ...(about === undefined ? {} : { description: about }),
    ...(options === undefined ? {} : { 'x-options': options }),
    ...(form === undefined ? {} : { 'x-form': form }),
    ...(cell === undefined ? {} : { 'x-cell': cell }),
    ...(names === undefined ? {} : { 'x-names': names }),
  };
}
