import { z } from 'zod'
import { decideSchema, decisionSchema, orderComparisonSchema, replacePinSchema, revisionSchema } from '../decisions.contract'
import { bulkResultSchema } from '../items.contract'
import { done, endpoint, id } from './endpoint'

export const DECISIONS_ENDPOINTS = {
  listDecisions: endpoint({
    method: 'get',
    path: '/api/projects/{id}/decisions',
    summary: 'What a project has to decide about, and what it leaves as it is for now, with all that would change',
    params: z.object({ id }),
    response: z.array(decisionSchema),
  }),
  decide: endpoint({
    method: 'post',
    path: '/api/projects/{id}/decisions',
    summary: 'Take newer versions, stay at those that are pinned, or take the last decision back',
    params: z.object({ id }),
    body: decideSchema,
    response: bulkResultSchema,
  }),
  replacePin: endpoint({
    method: 'post',
    path: '/api/projects/{id}/replacements',
    summary: 'Pin another item in the place of one',
    params: z.object({ id }),
    body: replacePinSchema,
    response: done,
  }),
  orderComparison: endpoint({
    method: 'post',
    path: '/api/projects/{id}/comparisons',
    summary: 'Render a shot of a mock-up with the pinned and with the newer version of an item',
    params: z.object({ id }),
    body: orderComparisonSchema,
    response: z.object({ ids: z.array(z.number()) }),
  }),
  listRevisions: endpoint({
    method: 'get',
    path: '/api/revisions',
    summary: 'Items with a newer version than projects pin, or withdrawn ones, and what each project does about it',
    query: z.object({ item: z.coerce.number().int().positive().optional() }),
    response: z.array(revisionSchema),
  }),
}
