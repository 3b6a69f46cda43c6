import { z } from 'zod'
import { recordQuerySchema, recordSchema } from '../record.contract'
import { collectedSchema, collectSchema, failedWorkSchema, upkeepSchema } from '../upkeep.contract'
import { endpoint } from './endpoint'

const chosen = z.object({ ids: z.array(z.number().int()).min(1).max(5000) })
const counted = z.object({ count: z.number() })

export const UPKEEP_ENDPOINTS = {
  getUpkeep: endpoint({
    method: 'get',
    path: '/api/upkeep',
    summary: 'The state of the library in figures',
    response: upkeepSchema,
  }),
  listFailedWork: endpoint({
    method: 'get',
    path: '/api/failed-work',
    summary: 'Work that was tried in vain and given up',
    response: z.array(failedWorkSchema),
  }),
  tryFailedWork: endpoint({
    method: 'post',
    path: '/api/failed-work/again',
    summary: 'Have failed work tried again',
    body: chosen,
    response: counted,
  }),
  dismissFailedWork: endpoint({
    method: 'post',
    path: '/api/failed-work/dismiss',
    summary: 'Take failed work off the list',
    body: chosen,
    response: counted,
  }),
  listRecord: endpoint({
    method: 'get',
    path: '/api/record',
    summary: 'Who did what to what, the newest first; as CSV at /api/record.csv',
    query: recordQuerySchema,
    response: recordSchema,
  }),
  collect: endpoint({
    method: 'post',
    path: '/api/collect',
    summary: 'Take away exports past their time and bytes that nothing names; a dry run only counts',
    body: collectSchema,
    response: collectedSchema,
  }),
}
