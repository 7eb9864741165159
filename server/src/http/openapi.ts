import * as z from 'zod';
import { problem, routes } from '@loyal-hinge/contract';
import type { Route } from '@loyal-hinge/contract';

const schemaOf = (schema: z.ZodType): unknown =>
  z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any', reused: 'inline' });
const json = (schema: z.ZodType): unknown => ({ 'application/json': { schema: schemaOf(schema) } });

/** The OpenAPI 3.1 document of the contract's routes. */
export function openApiDocument(): Record<string, unknown> {
  const paths: Record<string, Record<string, unknown>> = {};
  for (const [name, route] of Object.entries<Route>(routes)) {
    const path = route.path.replace(/:(\w+)/g, '{$1}');
    paths[path] = { ...paths[path], [route.method]: operation(name, route) };
  }
  return {
    openapi: '3.1.0',
    info: {
      title: 'Loyal Hinge',
      version: '1',
      description: 'Every change carries the token of the sign-in in the header X-Hinge-Token.',
    },
    paths,
  };
}

function operation(name: string, route: Route): Record<string, unknown> {
  const inPath = [...route.path.matchAll(/:(\w+)/g)].map(([, word]) => ({
    name: word,
    in: 'path',
    required: true,
    schema: { type: 'string' },
  }));
  return {
    operationId: name,
    summary: route.summary,
    description: route.role === null ? 'Open to anyone.' : `Needs the role ${route.role} or a higher one.`,
    parameters: [...inPath, ...queryParameters(route)],
    ...(route.body ? { requestBody: { required: true, content: json(route.body) } } : {}),
    responses: {
      200: { description: 'It worked.', content: json(route.answer) },
      default: {
        description: 'What went wrong, and what to do.',
        content: { 'application/problem+json': { schema: schemaOf(problem) } },
      },
    },
  };
}

function queryParameters(route: Route): unknown[] {
  if (!(route.query instanceof z.ZodObject)) return [];
  return Object.entries(route.query.shape as Record<string, z.ZodType>).map(([name, schema]) => ({
    name,
    in: 'query',
    required: !schema.safeParse(undefined).success,
    schema: schemaOf(schema),
  }));
}

const escaped = (text: string): string => text.replace(/[&<>"]/g, (letter) => `&#${letter.charCodeAt(0)};`);

/** The same as a page for people. */
export function openApiPage(): string {
  const rows = Object.entries<Route>(routes)
    .map(
      ([name, { method, path, summary, role }]) =>
        `<tr id="${name}"><td><code>${method.toUpperCase()}</code></td><td><code>${escaped(path)}</code></td><td>${escaped(summary)}</td><td>${role ?? 'anyone'}</td></tr>`,
    )
    .join('\n');
  return `<!doctype html><html lang="en"><meta charset="utf-8"><title>Loyal Hinge: calls</title>
<link rel="stylesheet" href="/api/docs.css"><h1>Calls of the server</h1>
<p>The shapes of bodies and answers stand in <a href="/api/openapi.json">openapi.json</a>. Live events: <code>GET /api/events</code>.</p>
<table><thead><tr><th>Method</th><th>Path</th><th>What it does</th><th>Least role</th></tr></thead><tbody>
${rows}
</tbody></table></html>`;
}

export const openApiStyle =
  'body{font:16px/1.5 sans-serif;max-width:60rem;margin:2rem auto;padding:0 1rem;background:#f7f4ec;color:#1e2a30}table{border-collapse:collapse;width:100%}td,th{text-align:left;padding:.4rem .6rem;border-bottom:1px solid #d9d2c3}';
