import { z } from 'zod'
import {
  auditedSceneSchema,
  auditSummarySchema,
  beginAuditSchema,
  besidePicturesSchema,
  besideSchema,
  correctSceneSchema,
  sceneAuditSchema,
  takeOutSchema,
} from '../audits.contract'
import { scheduleQuerySchema, scheduleSchema } from '../schedules.contract'
import { created, done, endpoint, id } from './endpoint'

export const AUDITS_ENDPOINTS = {
  getSceneSchedule: endpoint({
    method: 'get',
    path: '/api/audits/{id}/schedule',
    summary: 'What is in an audited scene, how much of it and where',
    params: z.object({ id }),
    query: scheduleQuerySchema.pick({ waste: true }),
    response: scheduleSchema,
  }),
  beginAudit: endpoint({
    method: 'post',
    path: '/api/audits',
    summary: 'Audit a scene that was sent into a batch of its own',
    body: beginAuditSchema,
    response: created,
  }),
  listAudits: endpoint({
    method: 'get',
    path: '/api/projects/{id}/audits',
    summary: 'Audits of a project’s scenes, the newest first',
    params: z.object({ id }),
    response: z.array(auditSummarySchema),
  }),
  listAuditedScenes: endpoint({
    method: 'get',
    path: '/api/audits',
    summary: 'Audited scenes that one may see, of whatever project, the newest first',
    response: z.array(auditedSceneSchema),
  }),
  getBeside: endpoint({
    method: 'get',
    path: '/api/audits/{id}/beside/{other}',
    summary: 'The materials that two audited scenes have both, and what is different about each',
    params: z.object({ id, other: id }),
    response: besideSchema,
  }),
  getBesidePictures: endpoint({
    method: 'get',
    path: '/api/audits/{id}/beside/{other}/pictures/{code}',
    summary: 'A material as each of two scenes has it, rendered on its rig',
    params: z.object({ id, other: id, code: z.string().max(40) }),
    response: besidePicturesSchema,
  }),
  getAudit: endpoint({
    method: 'get',
    path: '/api/audits/{id}',
    summary: 'What everything in a scene is to the library',
    params: z.object({ id }),
    response: sceneAuditSchema,
  }),
  correctScene: endpoint({
    method: 'post',
    path: '/api/audits/{id}/correction',
    summary: 'Put library versions in the places of what a scene has, and write it anew',
    params: z.object({ id }),
    body: correctSceneSchema,
    response: done,
  }),
  takeOutOfScene: endpoint({
    method: 'post',
    path: '/api/audits/{id}/delivery',
    summary: 'Send materials and models of a scene to Intake as a batch',
    params: z.object({ id }),
    body: takeOutSchema,
    response: created,
  }),
  removeAudit: endpoint({
    method: 'delete',
    path: '/api/audits/{id}',
    summary: 'Forget an audit and its scene',
    params: z.object({ id }),
    response: done,
  }),
}
