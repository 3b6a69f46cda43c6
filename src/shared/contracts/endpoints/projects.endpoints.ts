import { z } from 'zod'
import { standingListSchema, standingQuerySchema } from '../hand-over.contract'
import { bulkResultSchema } from '../items.contract'
import {
  changeGuestsSchema,
  editProjectSchema,
  handOverCheckQuerySchema,
  handOverCheckSchema,
  newProjectSchema,
  orderExportSchema,
  pinItemsSchema,
  projectSchema,
  projectSummarySchema,
} from '../projects.contract'
import { projectScheduleQuerySchema, quantitiesBeforeSchema, scheduleSchema, setQuantitiesSchema } from '../schedules.contract'
import { created, done, endpoint, id } from './endpoint'

export const PROJECTS_ENDPOINTS = {
  listProjects: endpoint({
    method: 'get',
    path: '/api/projects',
    summary: 'Projects the asker may see',
    guests: true,
    response: z.array(projectSummarySchema),
  }),
  createProject: endpoint({
    method: 'post',
    path: '/api/projects',
    summary: 'Begin a project',
    body: newProjectSchema,
    response: created,
  }),
  getProject: endpoint({
    method: 'get',
    path: '/api/projects/{id}',
    summary: 'A project, its pins and exports',
    guests: true,
    params: z.object({ id }),
    response: projectSchema,
  }),
  changeGuests: endpoint({
    method: 'patch',
    path: '/api/projects/{id}/guests',
    summary: 'Which guests a project is shown to',
    params: z.object({ id }),
    body: changeGuestsSchema,
    response: done,
  }),
  pinItems: endpoint({
    method: 'post',
    path: '/api/projects/{id}/pins',
    summary: 'Pin the approved version of items',
    params: z.object({ id }),
    body: pinItemsSchema,
    response: bulkResultSchema,
  }),
  unpinItems: endpoint({
    method: 'delete',
    path: '/api/projects/{id}/pins',
    summary: 'Take items out of a project',
    params: z.object({ id }),
    body: pinItemsSchema,
    response: done,
  }),
  editProject: endpoint({
    method: 'patch',
    path: '/api/projects/{id}',
    summary: 'Change the title, the phase, the notes, the own form or the people of a project',
    params: z.object({ id }),
    body: editProjectSchema,
    response: done,
  }),
  getProjectSchedule: endpoint({
    method: 'get',
    path: '/api/projects/{id}/schedule',
    summary: 'What a project needs: its pins, how much was typed for each, and what is measured in mock-ups of it',
    params: z.object({ id }),
    query: projectScheduleQuerySchema,
    response: scheduleSchema,
  }),
  setQuantities: endpoint({
    method: 'post',
    path: '/api/projects/{id}/quantities',
    summary: 'Say how much of its pins a project needs',
    params: z.object({ id }),
    body: setQuantitiesSchema,
    response: quantitiesBeforeSchema,
  }),
  orderExport: endpoint({
    method: 'post',
    path: '/api/projects/{id}/exports',
    summary: 'Order the zip of a project',
    params: z.object({ id }),
    body: orderExportSchema,
    response: created,
  }),
  listStanding: endpoint({
    method: 'post',
    path: '/api/hand-overs/standing',
    summary: 'How items stand that were handed over once',
    body: standingQuerySchema,
    response: standingListSchema,
  }),
  checkHandOver: endpoint({
    method: 'get',
    path: '/api/projects/{id}/hand-over-check',
    summary: 'What of a project may not be handed over, and what a form of materials does not keep',
    params: z.object({ id }),
    query: handOverCheckQuerySchema,
    response: handOverCheckSchema,
  }),
}
