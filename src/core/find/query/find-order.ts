import { FIGURE_FACETS, TERM_FACETS } from './facets'

/** Orders with a name of their own. */
export const ORDERS = ['best', 'code', 'name', 'newest', 'changed', 'width', 'light', 'hue'] as const
export type NamedOrder = (typeof ORDERS)[number]

/** What a table can be sorted by: a column, down with a minus before it. */
export const SORT_COLUMNS = ['code', 'name', ...TERM_FACETS, ...FIGURE_FACETS] as const
export type SortColumn = (typeof SORT_COLUMNS)[number]
export const SORTS = SORT_COLUMNS.flatMap(column => [column, `-${column}`] as const)
export type Sort = SortColumn | `-${SortColumn}`

export type Order = NamedOrder | Sort

/** `name` and `code` are both: a name of an order, and a column. */
export const isNamedOrder = (order: Order): order is NamedOrder =>
  (ORDERS as readonly string[]).includes(order) && order !== 'name' && order !== 'code'

export function readSort(order: Exclude<Order, 'best'>): { column: SortColumn; isDown: boolean } {
  const isDown = order.startsWith('-')
  return { column: (isDown ? order.slice(1) : order) as SortColumn, isDown }
}

/** What a view can be put together by. */
export const GROUPS = ['category', 'maker', 'color', 'kind', 'state', 'licence'] as const
export type Group = (typeof GROUPS)[number]
