import { z } from 'zod'
import { newStageModelSchema, proposedMaterialsSchema, rememberMaterialsSchema, stageModelSchema } from '../stage-models.contract'
import { created, done, endpoint, id } from './endpoint'

const params = z.object({ id })

export const STAGE_MODELS_ENDPOINTS = {
  listStageModels: endpoint({
    method: 'get',
    path: '/api/stage-models',
    summary: "Models that a mock-up may stand in: one's own, and those of a project",
    query: z.object({ project: id.optional() }),
    response: z.array(stageModelSchema),
  }),
  createStageModel: endpoint({
    method: 'post',
    path: '/api/stage-models',
    summary: 'Read what was sent into a batch as the stage of mock-ups',
    body: newStageModelSchema,
    response: created,
  }),
  removeStageModel: endpoint({
    method: 'delete',
    path: '/api/stage-models/{id}',
    summary: 'Forget a model in which nothing stands, with the files that were sent for it',
    params,
    response: done,
  }),
  proposeStageMaterials: endpoint({
    method: 'get',
    path: '/api/stage-models/{id}/materials',
    summary: 'The materials that a model came with, and which of the house they could be',
    params,
    response: proposedMaterialsSchema,
  }),
  rememberStageMaterials: endpoint({
    method: 'post',
    path: '/api/stage-models/{id}/materials',
    summary: 'Keep for the project what materials of its models are in the house',
    params,
    body: rememberMaterialsSchema,
    response: done,
  }),
}
