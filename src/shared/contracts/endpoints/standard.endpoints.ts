import { z } from 'zod'
import { bulkResultSchema } from '../items.contract'
import { licenceSchema, setLicenceSchema } from '../licences.contract'
import { namedProfileSchema, saveProfileSchema } from '../profiles.contract'
import {
  changeTreeSchema,
  offStandardSchema,
  setRulesSchema,
  setWordLineSchema,
  splitQuerySchema,
  standardRulesSchema,
  wordLineSchema,
  wordLineSetSchema,
} from '../standard.contract'
import { created, done, endpoint, id } from './endpoint'

export const STANDARD_ENDPOINTS = {
  listRules: endpoint({
    method: 'get',
    path: '/api/standard/rules',
    summary: 'What the house asks of each category',
    response: z.array(standardRulesSchema),
  }),
  setRules: endpoint({
    method: 'post',
    path: '/api/standard/rules',
    summary: 'Change what the house asks of a category',
    body: setRulesSchema,
    response: done,
  }),
  listWordLines: endpoint({
    method: 'get',
    path: '/api/standard/words',
    summary: 'The vocabulary: words that mean one thing',
    response: z.array(wordLineSchema),
  }),
  setWordLine: endpoint({
    method: 'post',
    path: '/api/standard/words',
    summary: 'Set a line of the vocabulary, begin one, or take one out',
    body: setWordLineSchema,
    response: wordLineSetSchema,
  }),
  listProfiles: endpoint({
    method: 'get',
    path: '/api/standard/profiles',
    summary: 'How renderers of the house want their files, and what that keeps',
    response: z.array(namedProfileSchema),
  }),
  saveProfile: endpoint({
    method: 'post',
    path: '/api/standard/profiles',
    summary: 'Keep a profile under a name',
    body: saveProfileSchema,
    response: created,
  }),
  removeProfile: endpoint({
    method: 'delete',
    path: '/api/standard/profiles/{id}',
    summary: 'Take a profile out',
    params: z.object({ id }),
    response: done,
  }),
  listLicences: endpoint({
    method: 'get',
    path: '/api/standard/licences',
    summary: 'What licences let out of the house',
    response: z.array(licenceSchema),
  }),
  setLicence: endpoint({
    method: 'post',
    path: '/api/standard/licences',
    summary: 'Say what a licence lets out',
    body: setLicenceSchema,
    response: done,
  }),
  changeTree: endpoint({
    method: 'post',
    path: '/api/standard/tree',
    summary: 'Rename, add, split or merge a category',
    body: changeTreeSchema,
    splitQuerySchema,
    response: z.object({ undo: z.number(), moved: z.number() }),
  }),
  undoTree: endpoint({
    method: 'post',
    path: '/api/standard/tree/undo',
    summary: 'Put a change of the house tree back',
    body: z.object({ undo: z.number().int() }),
    response: bulkResultSchema,
  }),
  countMatching: endpoint({
    method: 'get',
    path: '/api/standard/tree/matching',
    summary: 'How many items a split by words would move',
    query: splitQuerySchema,
    response: z.object({ count: z.number() }),
  }),
  listOffStandard: endpoint({
    method: 'get',
    path: '/api/standard/off',
    summary: 'Items of a category that are off its standard by their words',
    query: z.object({ path: z.string() }),
    response: z.array(offStandardSchema),
  }),
}
