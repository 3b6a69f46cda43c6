import { z } from 'zod'
import { bulkHistorySchema, bulkPlanSchema, bulkRunSchema, bulkWishSchema } from '../bulk.contract'
import { created, done, endpoint, id } from './endpoint'

export const BULK_ENDPOINTS = {
  planBulk: endpoint({
    method: 'post',
    path: '/api/bulk/plan',
    summary: 'What would happen to everything in a view',
    body: bulkWishSchema,
    response: bulkPlanSchema,
  }),
  startBulk: endpoint({
    method: 'post',
    path: '/api/bulk',
    summary: 'Change everything in a view, in the background',
    body: bulkWishSchema,
    response: created,
  }),
  listBulk: endpoint({
    method: 'get',
    path: '/api/bulk',
    summary: 'Changes of many items that the asker made of late',
    response: bulkHistorySchema,
  }),
  getBulk: endpoint({
    method: 'get',
    path: '/api/bulk/{id}',
    summary: 'How far a change of many items is, and what was refused',
    params: z.object({ id }),
    response: bulkRunSchema,
  }),
  stopBulk: endpoint({
    method: 'post',
    path: '/api/bulk/{id}/stop',
    summary: 'Leave the rest of a change of many items undone',
    params: z.object({ id }),
    response: done,
  }),
  undoBulk: endpoint({
    method: 'post',
    path: '/api/bulk/{id}/undo',
    summary: 'Put back what a change of many items has changed, in the background',
    params: z.object({ id }),
    response: created,
  }),
}
