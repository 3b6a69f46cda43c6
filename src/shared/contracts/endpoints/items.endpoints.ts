import { z } from 'zod'
import { chipSchema } from '../chip.contract'
import { comparedSchema } from '../compare.contract'
import { standBesideSchema } from '../decisions.contract'
import { familyQuerySchema, familySchema } from '../family.contract'
import {
  colorMapSchema,
  facetValueSchema,
  facetValuesQuerySchema,
  narrowingSchema,
  suggestionsSchema,
  wallQuerySchema,
  wallSchema,
} from '../find.contract'
import { idListSchema } from '../id-list'
import {
  bulkResultSchema,
  carriedItemsSchema,
  carryItemsSchema,
  categorySchema,
  editItemSchema,
  madeMaterialSchema,
  makeMaterialSchema,
  setFactsResultSchema,
  setFactsSchema,
  setStateSchema,
  sheetSchema,
} from '../items.contract'
import { renameItemsSchema } from '../standard.contract'
import { setCellsResultSchema, setCellsSchema, tableQuerySchema, tableSchema } from '../table.contract'
import { done, endpoint, id } from './endpoint'

export const ITEMS_ENDPOINTS = {
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
  getTable: endpoint({
    method: 'get',
    path: '/api/items/table',
    summary: 'One page of a view of the wall as rows with their figures and facts',
    query: tableQuerySchema,
    response: tableSchema,
  }),
  getColorMap: endpoint({
    method: 'get',
    path: '/api/items/colors',
    summary: 'The largest colour of each item of a view, at its place',
    query: narrowingSchema,
    response: colorMapSchema,
  }),
  suggestWords: endpoint({
    method: 'get',
    path: '/api/suggestions',
    summary: 'What somebody who types may mean, counted in the view they stand in',
    query: narrowingSchema,
    response: suggestionsSchema,
  }),
  listFacetValues: endpoint({
    method: 'get',
    path: '/api/facet-values',
    summary: 'Values of one facet in a view, by some of their letters',
    query: facetValuesQuerySchema,
    response: z.array(facetValueSchema),
  }),
  getChips: endpoint({
    method: 'get',
    path: '/api/chips',
    summary: 'Chips of items that are known by their ids',
    query: z.object({ ids: idListSchema }),
    response: z.array(chipSchema),
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
  carryItems: endpoint({
    method: 'post',
    path: '/api/items/carry',
    summary: 'Move or copy items into another library',
    body: carryItemsSchema,
    response: carriedItemsSchema,
  }),
  editItem: endpoint({
    method: 'patch',
    path: '/api/items/{id}',
    summary: 'Rename, move or resize an item',
    params: z.object({ id }),
    body: editItemSchema,
    response: done,
  }),
  standBeside: endpoint({
    method: 'post',
    path: '/api/items/{id}/beside',
    summary: 'Make an item of its own of the newest version; the item is again what was approved of it',
    params: z.object({ id }),
    body: standBesideSchema,
    response: madeMaterialSchema,
  }),
  makeMaterial: endpoint({
    method: 'post',
    path: '/api/items/{id}/material',
    summary: 'Make a material of a map',
    params: z.object({ id }),
    body: makeMaterialSchema,
    response: madeMaterialSchema,
  }),
  setFacts: endpoint({
    method: 'post',
    path: '/api/items/facts',
    summary: 'Give or take facts that are not measured',
    body: setFactsSchema,
    response: setFactsResultSchema,
  }),
  setCells: endpoint({
    method: 'post',
    path: '/api/items/cells',
    summary: 'Set names and given facts of items, each as given',
    body: setCellsSchema,
    response: setCellsResultSchema,
  }),
  renameItems: endpoint({
    method: 'post',
    path: '/api/items/names',
    summary: 'Rename items, each as given',
    body: renameItemsSchema,
    response: bulkResultSchema,
  }),
  fixItem: endpoint({
    method: 'post',
    path: '/api/items/{id}/fix',
    summary: 'Fix findings of an item; what comes out is its next version',
    params: z.object({ id }),
    body: z.object({ findingIds: z.array(z.number().int().positive()).min(1).max(100) }),
    response: done,
  }),
  countView: endpoint({
    method: 'post',
    path: '/api/items/{id}/views',
    summary: 'Somebody opened the sheet of an item',
    params: z.object({ id }),
    response: done,
  }),
}
