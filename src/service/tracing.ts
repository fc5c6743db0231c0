/**
 * Traces for whoever collects them (OpenTelemetry, over HTTP): one span for each request, and in it what it waited for and
 * what was done. Nothing of it is loaded where no endpoint is set.
 */
import type { Logger } from 'pino';
import { packageVersion } from '../packageRoot.js';
import type { Part } from './workMeter.js';

export interface RequestTold {
  /** As `GET /players/{player}`; the method alone where the address is none of the contract's. */
  name: string;
  method: string;
  route: string | undefined;
  status: number;
  /** By the clock of `performance`. */
  startMs: number;
  endMs: number;
  parts: readonly Part[];
  requestId: string | undefined;
  role: string | undefined;
  /** What refused it. */
  code: string | undefined;
  /** What the caller's own trace says of itself (W3C `traceparent`, `tracestate`). */
  headers: Readonly<Record<string, string | string[] | undefined>>;
}

export interface Tracing {
  /** Notes a request that is over. Gives the id of its trace; undefined where the caller wants none. */
  request(told: RequestTold): string | undefined;
  /** Sends what was not sent yet. */
  close(): Promise<void>;
}

const ENDPOINTS = ['OTEL_EXPORTER_OTLP_TRACES_ENDPOINT', 'OTEL_EXPORTER_OTLP_ENDPOINT'];

/** How long a stop waits for what is still to be sent. */
const LAST_MS = 2000;

/** Undefined where the environment names no endpoint. Sampling, headers and the name are by the usual `OTEL_` variables. */
export async function tracingStart(log: Logger, environment = process.env): Promise<Tracing | undefined> {
  if (!ENDPOINTS.some((name) => environment[name])) return undefined;
  const [
    { ROOT_CONTEXT, SpanKind, SpanStatusCode, diag, DiagLogLevel, trace },
    core,
    sdk,
    { OTLPTraceExporter },
    resources,
  ] = await Promise.all([
    import('@opentelemetry/api'),
    import('@opentelemetry/core'),
    import('@opentelemetry/sdk-trace-base'),
    import('@opentelemetry/exporter-trace-otlp-http'),
    import('@opentelemetry/resources'),
  ]);
  const told = (message: string): void => log.warn({ problem: message }, 'traces could not be sent');
  const nothing = (): void => undefined;
  diag.setLogger(
    { error: told, warn: told, info: nothing, debug: nothing, verbose: nothing },
    { logLevel: DiagLogLevel.WARN, suppressOverrideMessage: true },
  );
  const provider = new sdk.BasicTracerProvider({
    resource: resources.resourceFromAttributes({
      'service.name': environment['OTEL_SERVICE_NAME'] ?? 'dimestall',
      'service.version': packageVersion(),
    }),
    spanProcessors: [new sdk.BatchSpanProcessor(new OTLPTraceExporter())],
  });
  const tracer = provider.getTracer('dimestall');
  const propagator = new core.W3CTraceContextPropagator();
  const getter = {
    get: (headers: RequestTold['headers'], key: string) => headers[key],
    keys: (headers: RequestTold['headers']) => Object.keys(headers),
  };
  const epochMs = (ms: number): number => performance.timeOrigin + ms;
  return {
    request: ({ name, method, route, status, startMs, endMs, parts, requestId, role, code, headers }) => {
      const parent = propagator.extract(ROOT_CONTEXT, headers, getter);
      const span = tracer.startSpan(
        name,
        {
          kind: SpanKind.SERVER,
          startTime: epochMs(startMs),
          attributes: {
            'http.request.method': method,
            'http.response.status_code': status,
            ...(route === undefined ? {} : { 'http.route': route }),
            ...(code === undefined ? {} : { 'error.type': code }),
            ...(requestId === undefined ? {} : { 'dimestall.request_id': requestId }),
            ...(role === undefined ? {} : { 'dimestall.role': role }),
          },
        },
        parent,
      );
      if (!span.isRecording()) return undefined;
      if (status >= 500) span.setStatus({ code: SpanStatusCode.ERROR });
      const inside = trace.setSpan(parent, span);
      for (const part of parts)
        tracer.startSpan(part.name, { startTime: epochMs(part.startMs) }, inside).end(epochMs(part.endMs));
      span.end(epochMs(endMs));
      return span.spanContext().traceId;
    },
    close: async () => {
      const late = new Promise<void>((done) => void setTimeout(done, LAST_MS).unref());
      await Promise.race([provider.shutdown().catch((error: Error) => told(error.message)), late]);
    },
  };
}
