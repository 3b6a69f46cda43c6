import { z } from 'zod'
import { comparedSchema } from './compare.contract'
import { familyQuerySchema, familySchema } from './family.contract'
import { feedSchema, feedSummarySchema, newFeedSchema, takeOffersSchema } from './feed.contract'
import { fidelityListSchema, fidelityQuerySchema } from './fidelity.contract'
import {
  batchSchema,
  batchSummarySchema,
  chooseFixesSchema,
  claimedFilesSchema,
  claimFilesSchema,
  dressChoiceSchema,
  dressPartSchema,
  editBatchItemsSchema,
  fileItemsSchema,
  mapPlaceSchema,
  newBatchSchema,
  regroupSchema,
} from './intake.contract'
import {
  bulkResultSchema,
  categorySchema,
  editItemSchema,
  setStateSchema,
  sheetSchema,
  wallQuerySchema,
  wallSchema,
} from './items.contract'
import { ownPictureListSchema, setOwnPicturesSchema } from './own-picture.contract'
import { deliveryRequestSchema, newProjectSchema, pinItemsSchema, projectSchema, projectSummarySchema } from './projects.contract'
import { proposalSchema, rerenderStateSchema, rigChangeSchema, rigListSchema } from './rigs.contract'
import { librarySchema, memberSchema, sessionSchema, signInSchema } from './session.contract'
import { changeTreeSchema, offStandardSchema, renameItemsSchema, setRulesSchema, standardRulesSchema } from './standard.contract'
import { upkeepSchema } from './upkeep.contract'

export interface Endpoint {
  method: 'get' | 'post' | 'patch' | 'delete'
  /** With `{name}` for path parameters. */
  path: string
  summary: string
  /** Everything but signing in needs a session. */
  open?: boolean
  params?: z.ZodType
  query?: z.ZodType
  body?: z.ZodType
  response: z.ZodType
}

const id = z.coerce.number().int().positive()
const created = z.object({ id: z.number() })
const done = z.object({ ok: z.literal(true) })
export const DONE = { ok: true } as const

const endpoint = <E extends Endpoint>(given: E): E => given

/** Every request of the interface that carries JSON: what goes in, what comes out. Server, page and description all read this. */
export const ENDPOINTS = {
  getSession: endpoint({ method: 'get', path: '/api/session', summary: 'Who is signed in', open: true, response: sessionSchema }),
  signIn: endpoint({
    method: 'post',
    path: '/api/session',
    summary: 'Sign in',
    open: true,
    body: signInSchema,
    response: sessionSchema,
  }),
  signOut: endpoint({ method: 'delete', path: '/api/session', summary: 'Sign out', open: true, response: done }),
  listMembers: endpoint({
    method: 'get',
    path: '/api/people',
    summary: 'Everybody and their libraries',
    response: z.array(memberSchema),
  }),
  listLibraries: endpoint({
    method: 'get',
    path: '/api/libraries',
    summary: 'Libraries the asker may see',
    response: z.array(librarySchema),
  }),
  listCategories: endpoint({
    method: 'get',
    path: '/api/categories',
    summary: 'The house tree with counts',
    response: z.array(categorySchema),
  }),
  getWall: endpoint({
    method: 'get',
    path: '/api/items',
    summary: 'One page of the wall, with facet counts',
    query: wallQuerySchema,
    response: wallSchema,
  }),
  getSheet: endpoint({
    method: 'get',
    path: '/api/items/{code}',
    summary: 'Everything of one item',
    params: z.object({ code: z.string() }),
    query: z.object({ version: z.coerce.number().int().positive().optional() }),
    response: sheetSchema,
  }),
  getFamily: endpoint({
    method: 'get',
    path: '/api/family',
    summary: 'Materials of a category together, with colour and roughness',
    query: familyQuerySchema,
    response: familySchema,
  }),
  getComparison: endpoint({
    method: 'get',
    path: '/api/compare',
    summary: 'Pictures to be compared, two to six',
    query: z.object({ of: z.string().max(600) }),
    response: z.array(comparedSchema),
  }),
  setStates: endpoint({
    method: 'post',
    path: '/api/items/states',
    summary: 'Set the state of items',
    body: setStateSchema,
    response: bulkResultSchema,
  }),
  editItem: endpoint({
    method: 'patch',
    path: '/api/items/{id}',
    summary: 'Rename, move or resize an item',
    params: z.object({ id }),
    body: editItemSchema,
    response: done,
  }),
  renderFinal: endpoint({
    method: 'post',
    path: '/api/items/{id}/final-preview',
    summary: 'Ask for the final picture of an item',
    params: z.object({ id }),
    response: done,
  }),
  renderTurntable: endpoint({
    method: 'post',
    path: '/api/items/{id}/turntable',
    summary: 'Ask for one full turn of an item as a short loop',
    params: z.object({ id }),
    response: done,
  }),
  mendItem: endpoint({
    method: 'post',
    path: '/api/items/{id}/mend',
    summary: 'Mend findings of an item; what comes out is its next version',
    params: z.object({ id }),
    body: z.object({ findingIds: z.array(z.number().int().positive()).min(1).max(100) }),
    response: done,
  }),
  takeDeliveredPicture: endpoint({
    method: 'post',
    path: '/api/items/{id}/own-picture',
    summary: 'Show a picture that came along in the place of the one of the rig',
    params: z.object({ id }),
    body: z.object({ hash: z.string().regex(/^[0-9a-f]{64}$/) }),
    response: done,
  }),
  listOwnPictures: endpoint({
    method: 'get',
    path: '/api/own-pictures',
    summary: 'Items that show a picture of their own, the worst first',
    response: ownPictureListSchema,
  }),
  setOwnPictures: endpoint({
    method: 'patch',
    path: '/api/own-pictures',
    summary: 'Show the pictures of the rigs instead of these, or these again',
    body: setOwnPicturesSchema,
    response: done,
  }),
  measureFidelity: endpoint({
    method: 'post',
    path: '/api/items/{id}/fidelity',
    summary: 'Measure what each target loses of a material',
    params: z.object({ id }),
    response: done,
  }),
  listFidelity: endpoint({
    method: 'get',
    path: '/api/fidelity',
    summary: 'Materials that lose more than a limit in a target',
    query: fidelityQuerySchema,
    response: fidelityListSchema,
  }),
  measureMissingFidelity: endpoint({
    method: 'post',
    path: '/api/fidelity',
    summary: 'Measure every material of a view that was not measured yet',
    body: fidelityQuerySchema,
    response: z.object({ asked: z.number() }),
  }),
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
  changeTree: endpoint({
    method: 'post',
    path: '/api/standard/tree',
    summary: 'Rename, add, split or merge a category',
    body: changeTreeSchema,
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
    query: z.object({ path: z.string(), words: z.string().max(100) }),
    response: z.object({ count: z.number() }),
  }),
  listOffStandard: endpoint({
    method: 'get',
    path: '/api/standard/off',
    summary: 'Items of a category that are off its standard by their words',
    query: z.object({ path: z.string() }),
    response: z.array(offStandardSchema),
  }),
  renameItems: endpoint({
    method: 'post',
    path: '/api/items/names',
    summary: 'Rename items, each as given',
    body: renameItemsSchema,
    response: bulkResultSchema,
  }),
  renameBatchItems: endpoint({
    method: 'post',
    path: '/api/batches/{id}/names',
    summary: 'Rename rows of a worklist, each as given',
    params: z.object({ id }),
    body: renameItemsSchema,
    response: done,
  }),
  listFeeds: endpoint({
    method: 'get',
    path: '/api/feeds',
    summary: 'Feeds of suppliers, as they were last read',
    response: z.array(feedSummarySchema),
  }),
  addFeed: endpoint({
    method: 'post',
    path: '/api/feeds',
    summary: 'Read a supplier’s feed for a library',
    body: newFeedSchema,
    response: created,
  }),
  getFeed: endpoint({
    method: 'get',
    path: '/api/feeds/{id}',
    summary: 'What a supplier offers, and what of it was taken',
    params: z.object({ id }),
    response: feedSchema,
  }),
  refreshFeed: endpoint({
    method: 'post',
    path: '/api/feeds/{id}/read',
    summary: 'Read the offer again',
    params: z.object({ id }),
    response: feedSchema,
  }),
  takeFromFeed: endpoint({
    method: 'post',
    path: '/api/feeds/{id}/take',
    summary: 'Fetch things on offer as a delivery',
    params: z.object({ id }),
    body: takeOffersSchema,
    response: created,
  }),
  removeFeed: endpoint({
    method: 'delete',
    path: '/api/feeds/{id}',
    summary: 'Stop reading a feed; what was taken stays',
    params: z.object({ id }),
    response: done,
  }),
  listBatches: endpoint({
    method: 'get',
    path: '/api/batches',
    summary: 'Deliveries in Intake',
    response: z.array(batchSummarySchema),
  }),
  createBatch: endpoint({
    method: 'post',
    path: '/api/batches',
    summary: 'Begin a delivery',
    body: newBatchSchema,
    response: created,
  }),
  getBatch: endpoint({
    method: 'get',
    path: '/api/batches/{id}',
    summary: 'The worklist of a delivery',
    params: z.object({ id }),
    response: batchSchema,
  }),
  claimFiles: endpoint({
    method: 'post',
    path: '/api/batches/{id}/claim',
    summary: 'Take files into a delivery whose bytes are here already, by their SHA-256; the rest has to be sent',
    params: z.object({ id }),
    body: claimFilesSchema,
    response: claimedFilesSchema,
  }),
  sortBatch: endpoint({
    method: 'post',
    path: '/api/batches/{id}/sort',
    summary: 'End the receiving: sort the files into items',
    params: z.object({ id }),
    response: done,
  }),
  editBatchItems: endpoint({
    method: 'patch',
    path: '/api/batches/{id}/items',
    summary: 'Give names, categories, sizes to rows',
    params: z.object({ id }),
    body: editBatchItemsSchema,
    response: done,
  }),
  proposeDresses: endpoint({
    method: 'get',
    path: '/api/batches/{id}/items/{itemId}/dresses',
    summary: 'House materials for a part that nobody dressed',
    params: z.object({ id, itemId: id }),
    query: z.object({ part: z.string() }),
    response: z.array(dressChoiceSchema),
  }),
  dressPart: endpoint({
    method: 'post',
    path: '/api/batches/{id}/dress',
    summary: 'Put a house material on a part of a model',
    params: z.object({ id }),
    body: dressPartSchema,
    response: done,
  }),
  regroup: endpoint({
    method: 'post',
    path: '/api/batches/{id}/regroup',
    summary: 'Sort files into rows by hand; answers with the number by which it is undone',
    params: z.object({ id }),
    body: regroupSchema,
    response: z.object({ undo: z.number() }),
  }),
  undoRegroup: endpoint({
    method: 'post',
    path: '/api/batches/{id}/regroup/undo',
    summary: 'Put rows back as they were before they were sorted by hand',
    params: z.object({ id }),
    body: z.object({ undo: z.number().int() }),
    response: done,
  }),
  mapPlace: endpoint({
    method: 'post',
    path: '/api/batches/{id}/places',
    summary: 'Send what lies in one of the delivery’s own places to a house category',
    params: z.object({ id }),
    body: mapPlaceSchema,
    response: done,
  }),
  chooseFixes: endpoint({
    method: 'post',
    path: '/api/batches/{id}/fixes',
    summary: 'Mend findings on rows of a worklist, or take the fixes back',
    params: z.object({ id }),
    body: chooseFixesSchema,
    response: bulkResultSchema,
  }),
  unfileBatchItems: endpoint({
    method: 'post',
    path: '/api/batches/{id}/unfile',
    summary: 'Take the filing of rows back',
    params: z.object({ id }),
    body: fileItemsSchema,
    response: bulkResultSchema,
  }),
  fileBatchItems: endpoint({
    method: 'post',
    path: '/api/batches/{id}/file',
    summary: 'Make library items of rows',
    params: z.object({ id }),
    body: fileItemsSchema,
    response: bulkResultSchema,
  }),
  listProjects: endpoint({
    method: 'get',
    path: '/api/projects',
    summary: 'Projects the asker may see',
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
    summary: 'A project, its pins and deliveries',
    params: z.object({ id }),
    response: projectSchema,
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
  updatePins: endpoint({
    method: 'patch',
    path: '/api/projects/{id}/pins',
    summary: 'Take the approved version of pinned items',
    params: z.object({ id }),
    body: pinItemsSchema,
    response: done,
  }),
  orderDelivery: endpoint({
    method: 'post',
    path: '/api/projects/{id}/deliveries',
    summary: 'Order the zip of a project',
    params: z.object({ id }),
    body: deliveryRequestSchema,
    response: created,
  }),
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
  getUpkeep: endpoint({
    method: 'get',
    path: '/api/upkeep',
    summary: 'The state of the library in figures',
    response: upkeepSchema,
  }),
}
export type EndpointName = keyof typeof ENDPOINTS

type InputOf<T> = T extends z.ZodType ? z.output<T> : undefined
export interface EndpointInput<E extends Endpoint> {
  params: InputOf<E['params']>
  query: InputOf<E['query']>
  body: InputOf<E['body']>
}
export type EndpointOutput<E extends Endpoint> = z.output<E['response']>
