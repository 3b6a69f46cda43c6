import { z } from 'zod'
import { proposalSchema, rerenderStateSchema, rigChangeSchema, rigListSchema } from '../rigs.contract'
import { done, endpoint, id } from './endpoint'

export const RIGS_ENDPOINTS = {
  listRigs: endpoint({
    method: 'get',
    path: '/api/rigs',
    summary: 'Preview rigs, what is being tried out, and background runs',
    response: rigListSchema,
  }),
  proposeRig: endpoint({
    method: 'post',
    path: '/api/rigs/{name}/proposals',
    summary: 'Try out a changed rig on three samples',
    params: z.object({ name: z.string() }),
    body: rigChangeSchema,
    response: proposalSchema,
  }),
  proposeCategoryRig: endpoint({
    method: 'post',
    path: '/api/categories/{path}/rig-proposals',
    summary: 'Try out another rig for a category on three samples',
    params: z.object({ path: z.string() }),
    body: z.object({ rig: z.string() }),
    response: proposalSchema,
  }),
  adoptProposal: endpoint({
    method: 'post',
    path: '/api/rig-proposals/{id}/adoption',
    summary: 'Put a proposal in force and render anew what it concerns',
    params: z.object({ id }),
    response: z.object({ rerenderId: z.number().nullable() }),
  }),
  discardProposal: endpoint({
    method: 'delete',
    path: '/api/rig-proposals/{id}',
    summary: 'Drop a proposal',
    params: z.object({ id }),
    response: done,
  }),
  rerenderOlder: endpoint({
    method: 'post',
    path: '/api/rigs/{name}/rerender',
    summary: 'Render every older picture of the items on a rig anew',
    params: z.object({ name: z.string() }),
    response: z.object({ rerenderId: z.number().nullable() }),
  }),
  setRerenderState: endpoint({
    method: 'patch',
    path: '/api/rerenders/{id}',
    summary: 'Pause, go on with, or cancel a background run',
    params: z.object({ id }),
    body: rerenderStateSchema,
    response: done,
  }),
}
