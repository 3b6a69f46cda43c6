import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Chip } from '#shared/contracts/chip.contract'
import { api } from './api'
import { patchChips, refreshChips } from './chips'
import { createStore } from './store'
import { trayAdded } from './tray.slice'

const chip = (id: number, preview: string | null = null): Chip => ({
  id,
  code: `TIM-000${id}`,
  name: `Oak ${id}`,
  kind: 'material',
  category: 'surfaces.timber',
  state: 'draft',
  library: 'House library',
  figure: '',
  preview,
  isOlderPreview: false,
  isOwnPicture: false,
  dots: [],
})
const PAGE = { words: '', category: '', kind: '', state: '', library: '', finding: '', offset: 0, limit: 120 } as const

let asked: string[]
let store: ReturnType<typeof createStore>
beforeEach(async () => {
  localStorage.clear()
  asked = []
  vi.stubGlobal('fetch', async (request: Request) => {
    const ids = new URL(request.url).searchParams.get('ids')!
    asked.push(ids)
    return Response.json(ids.split(',').map(id => chip(Number(id), `/api/previews/${id}`)))
  })
  vi.stubGlobal(
    'Request',
    class extends Request {
      constructor(input: string | URL | Request, init?: RequestInit) {
        super(typeof input === 'string' ? new URL(input, 'http://muscovite.test') : input, init)
      }
    },
  )
  store = createStore()
  const wall = {
    total: 3,
    chips: [chip(1), chip(2), chip(3)],
    likeness: null,
    groups: null,
    facets: null,
    takenFor: [],
    nothing: null,
  }
  await store.dispatch(api.util.upsertQueryData('getWall', PAGE, wall))
})
const shown = () => api.endpoints.getWall.select(PAGE)(store.getState()).data!.chips

describe('chips', () => {
  it('whose pictures are finished are read by themselves, those alone that somebody sees', async () => {
    store.dispatch(trayAdded([chip(7)]))
    await store.dispatch(refreshChips([2, 7, 99]))
    expect(asked).toEqual(['2,7'])
    expect(shown().map(c => c.preview)).toEqual([null, '/api/previews/2', null])
    expect(store.getState().tray.chips[0].preview).toBe('/api/previews/7')
  })

  it('of which none is seen are not asked about', async () => {
    await store.dispatch(refreshChips([50, 51]))
    expect(asked).toEqual([])
  })

  it('are changed before the server has it, and back', () => {
    const undo = store.dispatch(
      patchChips(new Set([1, 3]), c => {
        c.state = 'approved'
      }),
    )
    expect(shown().map(c => c.state)).toEqual(['approved', 'draft', 'approved'])
    undo()
    expect(shown().map(c => c.state)).toEqual(['draft', 'draft', 'draft'])
  })
})
