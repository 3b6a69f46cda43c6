import { cleanup, screen, waitFor, within } from '@testing-library/react'
import { afterEach, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest'
import type { BatchItem, EditBatchItems } from '#shared/contracts/intake.contract'
import { rowsChanged } from '../../../state/rows.slice'
import { type Answers, type Asked, completeBrowser, renderPage } from '../../../testing/render-page'
import { makeBatch, makeRow } from './state/batch-item.fixture'
import { Worklist } from './Worklist'

/** Which rows were rendered, in order: each renders its name once. */
const rendered: number[] = []
vi.mock('./row/RowName', async original => {
  const { RowName } = await original<typeof import('./row/RowName')>()
  return {
    RowName: (props: { item: BatchItem }) => {
      rendered.push(props.item.id)
      return RowName(props)
    },
  }
})

beforeAll(completeBrowser)
beforeEach(() => {
  rendered.length = 0
})
afterEach(cleanup)

const TIMBER = { path: 'surfaces.timber', title: 'Timber', kind: 'material', prefix: 'TIM', rig: 'x', count: 0 }
const STONE = { path: 'surfaces.stone', title: 'Stone', kind: 'material', prefix: 'STO', rig: 'x', count: 0 }

/** A server with so many rows, which it changes as it is told. */
function serve(count: number): { rows: Map<number, BatchItem>; answers: Answers } {
  const list = Array.from({ length: count }, (_, i) =>
    makeRow(i + 1, {
      name: `Oak ${i + 1}`,
      files: [{ path: `oak-${i}.png`, role: 'baseColor', url: `/files/oak-${i}.png`, byContentOnly: false }] as never,
    }),
  )
  const rows = new Map(list.map(row => [row.id, row]))
  return {
    rows,
    answers: {
      'GET /api/categories': [TIMBER, STONE],
      'GET /api/batches/1/rows': ({ query }: Asked) =>
        query
          .get('ids')!
          .split(',')
          .map(id => rows.get(Number(id))),
      'PATCH /api/batches/1/items': ({ body }: Asked) => {
        const { ids, ...patch } = body as EditBatchItems
        for (const id of ids) rows.set(id, { ...rows.get(id)!, ...(patch as Partial<BatchItem>) })
        return { ok: true }
      },
      'POST /api/batches/1/accept': ({ body }: Asked) => {
        const { ids } = body as { ids: number[] }
        for (const id of ids) rows.set(id, { ...rows.get(id)!, state: 'accepted', itemCode: `TIM-${id}` })
        return { changed: ids, refused: [] }
      },
    },
  }
}

const open = async (count: number, more: Answers = {}) => {
  const { rows, answers } = serve(count)
  const ids = [...rows.keys()]
  const page = renderPage(<Worklist batch={makeBatch(ids)} />, { answers: { ...answers, ...more } })
  // By its text: asking for a role walks the whole page, at each change of it.
  await screen.findByText(`Mark all ${count}`)
  return { ...page, rows }
}

describe('a worklist of 500 rows', () => {
  it('renders only those in sight, and typing in one renders that one alone', async () => {
    const { user } = await open(500)
    const shown = screen.getAllByRole('textbox', { name: /^Name of Oak/ }).length
    expect(shown).toBeGreaterThan(5)
    expect(shown).toBeLessThan(40)
    rendered.length = 0
    const field = screen.getByRole('textbox', { name: 'Name of Oak 3' })
    await user.type(field, ' plank')
    // A field keeps what is typed to itself.
    expect(rendered).toEqual([])
    await user.keyboard('{Enter}')
    await waitFor(() => expect(screen.getByRole('textbox', { name: 'Name of Oak 3 plank' })).toBeTruthy())
    expect(new Set(rendered)).toEqual(new Set([3]))
  })

  it('reads a row again that changed elsewhere, and renders no other', async () => {
    const { rows, store, asked } = await open(500)
    rendered.length = 0
    rows.set(2, { ...rows.get(2)!, name: 'Larch' })
    store.dispatch(rowsChanged({ batchId: 1, ids: [2] }))
    await waitFor(() => expect(screen.getByRole('textbox', { name: 'Name of Larch' })).toBeTruthy())
    expect(new Set(rendered)).toEqual(new Set([2]))
    expect(asked.at(-1)?.query.get('ids')).toBe('2')
  })
})

describe('a row', () => {
  it('shows what was given before the server has it, and what is true when the server refuses', async () => {
    let refuse = () => {}
    const refused = new Promise<void>(resolve => {
      refuse = resolve
    })
    const { user } = await open(3, {
      'PATCH /api/batches/1/items': () =>
        refused.then(() => Response.json({ code: 'conflict', message: 'Somebody accepted it.' }, { status: 409 })),
    })
    const field = screen.getByRole('textbox', { name: 'Repeat width of Oak 1, mm' }) as HTMLInputElement
    await user.clear(field)
    await user.type(field, '850{Enter}')
    expect(field.value).toBe('850')
    await user.click(screen.getByRole('combobox', { name: 'Category of Oak 1' }))
    await user.keyboard('sto{Enter}')
    expect((screen.getByRole('combobox', { name: 'Category of Oak 1' }) as HTMLInputElement).value).toBe('Stone')
    refuse()
    await waitFor(() => {
      expect(field.value).toBe('600')
      expect((screen.getByRole('combobox', { name: 'Category of Oak 1' }) as HTMLInputElement).value).toBe('Timber')
    })
  })

  it('is marked, set aside and accepted with keys; a letter typed into a field does none of that', async () => {
    const { user, asked } = await open(3)
    const [first] = screen.getAllByRole('listitem')
    first.focus()
    await user.keyboard(' {ArrowDown}{Shift>} {/Shift}')
    expect(screen.getByRole('button', { name: 'Accept the 2 marked' })).toBeTruthy()
    await user.type(screen.getByRole('textbox', { name: 'Name of Oak 3' }), 'as{Escape}')
    expect(asked.filter(a => a.method !== 'GET')).toEqual([])
    screen.getAllByRole('listitem')[2].focus()
    await user.keyboard('s')
    expect(await within(screen.getAllByRole('listitem')[2]).findByRole('button', { name: 'Take back' })).toBeTruthy()
    first.focus()
    await user.keyboard('a')
    await waitFor(() => expect(asked.some(a => a.path === '/api/batches/1/accept')).toBe(true))
    expect(asked.filter(a => a.method !== 'GET').map(a => a.body)).toEqual([{ ids: [3], setAside: true }, { ids: [1, 2] }])
  })
})

describe('rows under headings', () => {
  it('are marked together, and given one width at once; the arrows pass headings by', async () => {
    const { rows, answers } = serve(4)
    for (const id of [1, 3]) rows.set(id, { ...rows.get(id)!, sourceFolder: 'Wood / Oak', needsWidth: true })
    const { user, asked } = renderPage(<Worklist batch={makeBatch([...rows.keys()])} />, { answers })
    await waitFor(() => expect(screen.getByRole('checkbox', { name: 'Mark all 4' })).toBeTruthy())
    await user.click(screen.getByRole('button', { name: /^Order of rows/ }))
    await user.click(screen.getByRole('option', { name: 'by their folders' }))
    expect(screen.getAllByRole('heading', { level: 3 }).map(h => h.textContent)).toEqual([
      'In no folder of its own',
      'Wood / Oak',
    ])
    expect(screen.getByText('2 items, 2 without a width')).toBeTruthy()
    const shown = screen.getAllByRole('listitem').filter(li => li.tabIndex >= 0)
    shown[1].focus()
    await user.keyboard('{ArrowDown}')
    expect(document.activeElement).toBe(shown[2])
    await user.click(screen.getByRole('checkbox', { name: 'Mark all under Wood / Oak' }))
    expect(screen.getByRole('button', { name: 'Accept the 2 marked' })).toBeTruthy()
    await user.type(screen.getByRole('textbox', { name: /Repeat width for all marked/ }), '850{Enter}')
    await waitFor(() => expect(asked.some(a => a.method === 'PATCH')).toBe(true))
    expect(asked.find(a => a.method === 'PATCH')?.body).toEqual({ ids: [1, 3], widthMm: 850 })
    await user.click(screen.getByRole('checkbox', { name: 'Mark all under Wood / Oak' }))
    expect(screen.queryByRole('button', { name: /marked$/ })).toBeNull()
  })
})
