import { createDocument, type ZodOpenApiOperationObject, type ZodOpenApiPathsObject } from 'zod-openapi'
import type { z } from 'zod'
import { ENDPOINTS } from '#shared/endpoints'
import { errorSchema } from '#shared/api/endpoint'

/** The OpenAPI 3.1 document of everything under /api, made from the endpoints' own schemas. */
export function openApiDocument(url: string): object {
  const paths: Record<string, Record<string, ZodOpenApiOperationObject>> = {}
  for (const [name, endpoint] of Object.entries(ENDPOINTS)) {
    const hasBody = endpoint.method !== 'get' && endpoint.method !== 'delete'
    paths[endpoint.path] = {
      ...paths[endpoint.path],
      [endpoint.method]: {
        operationId: name,
        summary: endpoint.summary,
        security: endpoint.access === 'anyone' ? [] : [{ key: [] }],
        requestParams: { path: endpoint.params as z.ZodObject, query: endpoint.query as z.ZodObject },
        ...(hasBody && { requestBody: { content: { 'application/json': { schema: endpoint.body } } } }),
        responses: {
          200: { description: 'Done', content: { 'application/json': { schema: endpoint.response } } },
          default: { description: 'Not done, and why', content: { 'application/json': { schema: errorSchema } } },
        },
      },
    }
  }
  return createDocument({
    openapi: '3.1.0',
    info: {
      title: 'Uphill',
      version: '1',
      description: 'Prospects, cadences and outcomes. Times are milliseconds since 1970-01-01T00:00Z.',
    },
    servers: [{ url }],
    components: {
      securitySchemes: { key: { type: 'http', scheme: 'bearer', description: 'An API key from Settings' } },
    },
    paths: paths as ZodOpenApiPathsObject,
  })
}
