import { routes } from '@loyal-hinge/contract';
import { openApiDocument, openApiPage } from './openapi.js';

describe('the description of the calls', () => {
  const document = openApiDocument() as {
    openapi: string;
    paths: Record<
      string,
      Record<string, { operationId: string; parameters: { name: string; in: string }[]; requestBody?: unknown }>
    >;
  };

  it('holds every call once', () => {
    const described = Object.values(document.paths).flatMap((methods) =>
      Object.values(methods).map(({ operationId }) => operationId),
    );
    expect(described.sort()).toEqual(Object.keys(routes).sort());
    expect(document.openapi).toBe('3.1.0');
  });

  it('names what stands in the path and in the query, and which bodies are taken', () => {
    expect(document.paths['/api/links/{linkId}/mendings']?.['post']).toMatchObject({
      parameters: [{ name: 'linkId', in: 'path' }],
      requestBody: { required: true },
    });
    expect(document.paths['/api/judged-url']?.['get']?.parameters).toMatchObject([
      { name: 'url', in: 'query', required: true },
      { name: 'serverId', required: false },
    ]);
  });

  it('is a page for people too', () => {
    for (const { path } of Object.values(routes)) expect(openApiPage()).toContain(path);
  });
});
