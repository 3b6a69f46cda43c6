import type { z } from 'zod'
import { AUDITS_ENDPOINTS } from './endpoints/audits.endpoints'
import { BULK_ENDPOINTS } from './endpoints/bulk.endpoints'
import { DECISIONS_ENDPOINTS } from './endpoints/decisions.endpoints'
import type { Endpoint } from './endpoints/endpoint'
import { FEEDS_ENDPOINTS } from './endpoints/feeds.endpoints'
import { INTAKE_ENDPOINTS } from './endpoints/intake.endpoints'
import { ITEMS_ENDPOINTS } from './endpoints/items.endpoints'
import { MOCK_UPS_ENDPOINTS } from './endpoints/mock-ups.endpoints'
import { PEOPLE_ENDPOINTS } from './endpoints/people.endpoints'
import { PERSONAL_ENDPOINTS } from './endpoints/personal.endpoints'
import { PICTURES_ENDPOINTS } from './endpoints/pictures.endpoints'
import { PROJECTS_ENDPOINTS } from './endpoints/projects.endpoints'
import { RIGS_ENDPOINTS } from './endpoints/rigs.endpoints'
import { SESSION_ENDPOINTS } from './endpoints/session.endpoints'
import { STAGE_MODELS_ENDPOINTS } from './endpoints/stage-models.endpoints'
import { STANDARD_ENDPOINTS } from './endpoints/standard.endpoints'
import { UPKEEP_ENDPOINTS } from './endpoints/upkeep.endpoints'

export { DONE, type Endpoint } from './endpoints/endpoint'

/** Every request of the interface that carries JSON: what goes in, what comes out. Server, page and description all read this. */
export const ENDPOINTS = {
  ...SESSION_ENDPOINTS,
  ...PEOPLE_ENDPOINTS,
  ...ITEMS_ENDPOINTS,
  ...PICTURES_ENDPOINTS,
  ...STANDARD_ENDPOINTS,
  ...FEEDS_ENDPOINTS,
  ...INTAKE_ENDPOINTS,
  ...PROJECTS_ENDPOINTS,
  ...DECISIONS_ENDPOINTS,
  ...AUDITS_ENDPOINTS,
  ...STAGE_MODELS_ENDPOINTS,
  ...MOCK_UPS_ENDPOINTS,
  ...RIGS_ENDPOINTS,
  ...PERSONAL_ENDPOINTS,
  ...BULK_ENDPOINTS,
  ...UPKEEP_ENDPOINTS,
}
export type EndpointName = keyof typeof ENDPOINTS

type InputOf<T> = T extends z.ZodType ? z.output<T> : undefined
export interface EndpointInput<E extends Endpoint> {
  params: InputOf<E['params']>
  query: InputOf<E['query']>
  body: InputOf<E['body']>
}
export type EndpointOutput<E extends Endpoint> = z.output<E['response']>
