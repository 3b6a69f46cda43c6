import { z } from 'zod'
import { comparedSchema } from '../compare.contract'
import { familyQuerySchema, familySchema } from '../family.contract'
import { idListSchema } from '../id-list'
import {
  bulkResultSchema,
  carriedItemsSchema,
  carryItemsSchema,
  categorySchema,
  chipSchema,
  editItemSchema,
  setFactsResultSchema,
  setFactsSchema,
  setStateSchema,
  sheetSchema,
  wallQuerySchema,
  wallSchema,
} from '../items.contract'
import { renameItemsSchema } from '../standard.contract'
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
  setFacts: endpoint({
    method: 'post',
    path: '/api/items/facts',
    summary: 'Give or take facts that are not measured',
    body: setFactsSchema,
    response: setFactsResultSchema,
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
