import type { ZodOpenApiPathsObject } from 'zod-openapi'
import { createDocument } from 'zod-openapi'
import { ENDPOINTS, type Endpoint } from '#shared/contracts/endpoints'
import { problemSchema } from '#shared/contracts/failure.contract'

/** The interface's description, made from the contract that the routes themselves read. */
export function describeInterface() {
  const paths: ZodOpenApiPathsObject = {}
  for (const [name, endpoint] of Object.entries(ENDPOINTS) as [string, Endpoint][]) {
    const { method, path, summary, params, query, body, response } = endpoint
    paths[path] = {
      ...paths[path],
      [method]: {
        operationId: name,
        summary,
        requestParams: {
          ...(params ? { path: params as never } : {}),
          ...(query ? { query: query as never } : {}),
        },
        ...(body ? { requestBody: { content: { 'application/json': { schema: body } } } } : {}),
        responses: {
          200: { description: 'Done', content: { 'application/json': { schema: response } } },
          default: { description: 'Refused, with a reason', content: { 'application/json': { schema: problemSchema } } },
        },
      },
    }
  }
  return createDocument({
    openapi: '3.1.0',
    info: {
      title: 'Muscovite',
      version: '1',
      description:
        'Files are uploaded with the tus protocol at /api/uploads; changes are told by server-sent events at /api/live.',
    },
    paths,
  })
}
