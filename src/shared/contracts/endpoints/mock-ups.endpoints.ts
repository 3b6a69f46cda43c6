import { z } from 'zod'
import { idListSchema } from '../id-list'
import { bulkResultSchema } from '../items.contract'
import {
  editMockUpSchema,
  makeChangeSchema,
  mockUpChangesSchema,
  mockUpItemSchema,
  mockUpPictureSchema,
  mockUpSchema,
  mockUpSummarySchema,
  mockUpVersionSchema,
  newMockUpSchema,
  orderPicturesSchema,
} from '../mock-ups.contract'
import { newScheduleTemplateSchema, scheduleQuerySchema, scheduleSchema, scheduleTemplateSchema } from '../schedules.contract'
import { created, done, endpoint, id } from './endpoint'

const params = z.object({ id })

export const MOCK_UPS_ENDPOINTS = {
  listMockUps: endpoint({
    method: 'get',
    path: '/api/mock-ups',
    summary: "One's own mock-ups and those of projects one may see, the newest first",
    query: z.object({ project: id.optional() }),
    response: z.array(mockUpSummarySchema),
  }),
  createMockUp: endpoint({
    method: 'post',
    path: '/api/mock-ups',
    summary: 'Begin a mock-up, empty or as a copy',
    body: newMockUpSchema,
    response: created,
  }),
  getMockUp: endpoint({
    method: 'get',
    path: '/api/mock-ups/{id}',
    summary: 'A mock-up: its scene, and what is in it',
    params,
    response: mockUpSchema,
  }),
  editMockUp: endpoint({
    method: 'patch',
    path: '/api/mock-ups/{id}',
    summary: 'Rename, share, keep as a template, put aside or back',
    params,
    body: editMockUpSchema,
    response: done,
  }),
  changeMockUp: endpoint({
    method: 'post',
    path: '/api/mock-ups/{id}/changes',
    summary: 'Change a scene; what others did since the base comes back',
    params,
    body: makeChangeSchema,
    response: mockUpChangesSchema,
  }),
  listMockUpChanges: endpoint({
    method: 'get',
    path: '/api/mock-ups/{id}/changes',
    summary: 'What was done to a scene since a revision',
    params,
    query: z.object({ since: z.coerce.number().int().min(0) }),
    response: mockUpChangesSchema,
  }),
  findMockUpItems: endpoint({
    method: 'get',
    path: '/api/mock-up-items',
    summary: 'Items of the library as a mock-up takes them in: at their approved versions, else at their newest',
    query: z.object({ ids: idListSchema }),
    response: z.array(mockUpItemSchema),
  }),
  listMockUpVersions: endpoint({
    method: 'get',
    path: '/api/mock-ups/{id}/versions',
    summary: 'States of a mock-up that were kept',
    params,
    response: z.array(mockUpVersionSchema),
  }),
  keepMockUpVersion: endpoint({
    method: 'post',
    path: '/api/mock-ups/{id}/versions',
    summary: 'Keep the state of a mock-up under a name',
    params,
    body: z.object({ name: z.string().trim().min(1, 'Give the version a name.').max(80) }),
    response: created,
  }),
  takeMockUpVersion: endpoint({
    method: 'post',
    path: '/api/mock-ups/{id}/versions/{version}/take',
    summary: 'Make a mock-up what it was in a kept state; a change like any other',
    params: z.object({ id, version: id }),
    body: z.object({ page: z.string().min(1).max(40) }),
    response: mockUpChangesSchema,
  }),
  listMockUpPictures: endpoint({
    method: 'get',
    path: '/api/mock-ups/{id}/pictures',
    summary: 'Renderings of a mock-up, the newest first',
    params,
    response: z.array(mockUpPictureSchema),
  }),
  orderMockUpPictures: endpoint({
    method: 'post',
    path: '/api/mock-ups/{id}/pictures',
    summary: 'Render shots of a mock-up, each under each of some skies',
    params,
    body: orderPicturesSchema,
    response: z.object({ ids: z.array(z.number()) }),
  }),
  cancelMockUpPicture: endpoint({
    method: 'delete',
    path: '/api/mock-ups/{id}/pictures/{picture}',
    summary: 'Stop a rendering, or take a picture away',
    params: z.object({ id, picture: id }),
    response: done,
  }),
  pinMockUp: endpoint({
    method: 'post',
    path: '/api/mock-ups/{id}/pins',
    summary: 'Pin everything that a mock-up shows in its project',
    params,
    response: bulkResultSchema,
  }),
  getSchedule: endpoint({
    method: 'get',
    path: '/api/mock-ups/{id}/schedule',
    summary: 'The finish schedule of a mock-up: what is in it, how much, where; against a kept version of it',
    params: z.object({ id }),
    query: scheduleQuerySchema,
    response: scheduleSchema,
  }),
  listScheduleTemplates: endpoint({
    method: 'get',
    path: '/api/schedule-templates',
    summary: 'Layouts of schedules that the house keeps',
    response: z.array(scheduleTemplateSchema),
  }),
  keepScheduleTemplate: endpoint({
    method: 'post',
    path: '/api/schedule-templates',
    summary: 'Keep a layout under a name, in the place of the one that had it',
    body: newScheduleTemplateSchema,
    response: created,
  }),
  dropScheduleTemplate: endpoint({
    method: 'delete',
    path: '/api/schedule-templates/{id}',
    summary: 'Take a layout away',
    params: z.object({ id }),
    response: done,
  }),
}
