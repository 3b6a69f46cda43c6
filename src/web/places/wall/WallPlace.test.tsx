import { act, cleanup, screen, waitFor } from '@testing-library/react'
import { useState } from 'react'
import { afterEach, beforeAll, describe, expect, it } from 'vitest'
import type { Chip } from '#shared/contracts/chip.contract'
import type { Session } from '#shared/contracts/session.contract'
import { type Asked, completeBrowser, renderPage } from '../../testing/render-page'
import { SearchLine } from './SearchLine'
import { WallPlace } from './WallPlace'
import { NOTHING_SET } from './wall-address'

beforeAll(completeBrowser)
afterEach(cleanup)

const SESSION: Session = {
  person: { id: 1, name: 'Ines Quist', email: 'ines@paleharbour.example', role: 'lead' },
  libraries: [{ id: 1, key: 'house', title: 'House library', kind: 'house' }],
  studio: 'Pale Harbour',
  outsideSignIn: null,
  demoPeople: [],
}
const CATEGORIES = [
  { path: 'surfaces', title: 'Surfaces', kind: 'material', prefix: 'SUR', rig: 'x', count: 2 },
  { path: 'surfaces.timber', title: 'Timber', kind: 'material', prefix: 'TIM', rig: 'x', count: 1 },
]
const chip = (id: number, name: string): Chip => ({
  id,
  code: `TIM-000${id}`,
  name,
  kind: 'material',
  category: 'surfaces.timber',
  state: 'approved',
  library: 'House library',
  figure: '',
  preview: null,
  isOlderPreview: false,
  isOwnPicture: false,
  dots: [],
})
const ALL = [chip(1, 'Oak plank'), chip(2, 'Larch cladding')]

/** The wall over a server that finds by name alone. */
const open = (at: string) =>
  renderPage(<WallPlace session={SESSION} />, {
    at,
    answers: {
      'GET /api/categories': CATEGORIES,
      'GET /api/suggestions': ({ query }: Asked) => ({
        before: '',
        words: [{ word: 'cladding', count: 1 }],
        values: [{ facet: 'maker', value: 'Oddmere', title: 'Oddmere', count: 1 }],
        items: ALL.filter(c => c.name.toLowerCase().includes(query.get('words') ?? '')),
        figure: null,
        here: 1,
        everywhere: 3,
      }),
      'GET /api/items': ({ query }: Asked) => {
        const words = (query.get('words') ?? '').toLowerCase()
        const chips = ALL.filter(c => c.name.toLowerCase().includes(words))
        return {
          total: chips.length,
          chips,
          facets: {
            categories: { surfaces: 2, 'surfaces.timber': 2 },
            terms: {
              kind: [{ value: 'material', title: 'material', count: 2 }],
              state: [{ value: 'approved', title: 'approved', count: 2 }],
              maker: [
                { value: 'Oddmere', title: 'Oddmere', count: 1 },
                { value: 'Hollowbrook', title: 'Hollowbrook', count: 1 },
              ],
            },
            more: {},
            figures: {
              widthMm: { edges: [100, 200, 400], counts: [1, 1], unknown: 0 },
              lrv: { edges: [0, 4, 8], counts: [1, 1], unknown: 0 },
            },
          },
          likeness: null,
          takenFor: [],
          nothing:
            chips.length > 0
              ? null
              : { drops: [{ key: `word:${words}`, count: 2 }], words: [{ typed: words, word: 'larch', count: 1 }], nearest: ALL },
        }
      },
    },
  })

/** A page whose address comes when `later` is called. */
function SlowPage({ later }: { later: (() => void)[] }) {
  const [words, setWords] = useState('')
  return (
    <SearchLine
      address={{ ...NOTHING_SET, words }}
      within={undefined}
      onChange={patch => later.push(() => setWords(patch.words ?? ''))}
      onEverywhere={() => {}}
      onOpen={() => {}}
      onPicture={() => {}}
      isReading={false}
      onToChips={() => {}}
    />
  )
}

describe("the wall's address", () => {
  it('holds what is typed and chosen, and is what the server is asked for', async () => {
    const { user, address, asked } = open('/wall')
    expect(await screen.findByText('Larch cladding')).toBeTruthy()
    await user.type(screen.getByRole('searchbox'), 'oak')
    await waitFor(() => expect(address()).toBe('/wall?words=oak'))
    await waitFor(() => expect(screen.queryByText('Larch cladding')).toBeNull())
    await user.click(screen.getByRole('button', { name: 'State: every state' }))
    await user.click(screen.getByRole('option', { name: /approved/ }))
    expect(address()).toBe('/wall?words=oak&state=approved')
    await user.click(screen.getByRole('combobox', { name: /Category/ }))
    await user.keyboard('tim{Enter}')
    expect(new URLSearchParams(address().split('?')[1]).get('category')).toBe('surfaces.timber')
    expect(screen.getByRole('searchbox', { name: 'Search in Timber' })).toBeTruthy()
    expect(Object.fromEntries(asked.at(-1)!.query)).toMatchObject({
      words: 'oak',
      state: 'approved',
      category: 'surfaces.timber',
    })
  })

  it('is read when one comes by it, and cleared without losing the way', async () => {
    const { user, address } = open('/wall?words=larch&category=surfaces.timber')
    expect(await screen.findByText('Larch cladding')).toBeTruthy()
    expect((screen.getByRole('searchbox') as HTMLInputElement).value).toBe('larch')
    expect(screen.queryByText('Oak plank')).toBeNull()
    await user.click(screen.getByRole('button', { name: 'Clear' }))
    expect(address()).toBe('/wall')
    expect(await screen.findByText('Oak plank')).toBeTruthy()
  })

  it('that lags behind takes nothing from what is being typed', async () => {
    const { user, address } = open('/wall')
    const field = (await screen.findByRole('searchbox')) as HTMLInputElement
    await user.type(field, 'la')
    await waitFor(() => expect(address()).toBe('/wall?words=la'))
    await user.type(field, 'r')
    await new Promise(resolve => setTimeout(resolve, 60))
    await user.type(field, 'ch')
    expect(field.value).toBe('larch')
    await waitFor(() => expect(address()).toBe('/wall?words=larch'))
    expect(field.value).toBe('larch')
  })

  it('that comes back long after takes nothing from what was typed since', async () => {
    const later: (() => void)[] = []
    const { user } = renderPage(<SlowPage later={later} />, { at: '/wall', answers: {} })
    const field = screen.getByRole('searchbox') as HTMLInputElement
    await user.type(field, 'terr')
    await waitFor(() => expect(later).toHaveLength(1))
    await user.type(field, 'azzo')
    await waitFor(() => expect(later).toHaveLength(2))
    await act(async () => later[0]())
    expect(field.value).toBe('terrazzo')
    await act(async () => later[1]())
    expect(field.value).toBe('terrazzo')
  })

  it('that nobody could have made shows the whole wall', async () => {
    open('/wall?kind=teapot&state=17')
    expect(await screen.findByText('Oak plank')).toBeTruthy()
  })

  it('with nothing behind it says so, and leads back', async () => {
    const { user, address } = open('/wall?words=zebra')
    expect(await screen.findByText('Nothing is all of this.')).toBeTruthy()
    expect(screen.getByRole('button', { name: /Open OAK|TIM-0001/ })).toBeTruthy()
    await user.click(screen.getByRole('button', { name: /^larch/ }))
    await waitFor(() => expect(address()).toBe('/wall?words=larch'))
    expect(await screen.findByText('Larch cladding')).toBeTruthy()
  })

  it('is narrowed by values and figures, each of which can be taken back alone', async () => {
    const { user, address } = open('/wall')
    expect(await screen.findByText('Oak plank')).toBeTruthy()
    await user.keyboard('n')
    await user.click(await screen.findByRole('checkbox', { name: /Hollowbrook/ }))
    expect(address()).toBe('/wall?maker=Hollowbrook')
    const most = screen.getByRole('textbox', { name: /Real width: most/ })
    await user.type(most, '0.3 m{Enter}')
    expect(new URLSearchParams(address().split('?')[1]).get('widthMm')).toBe('..300')
    await user.type(screen.getByRole('textbox', { name: 'Colour as hexadecimal digits' }), '#a03020{Enter}')
    expect(new URLSearchParams(address().split('?')[1]).get('color')).toBe('a03020')
    await user.click(screen.getByRole('button', { name: 'Without Maker: Hollowbrook' }))
    await user.click(screen.getByRole('button', { name: /Without Real width/ }))
    await user.click(screen.getByRole('button', { name: /Without Colour/ }))
    expect(address()).toBe('/wall')
  })

  it('takes a suggestion by the keyboard alone', async () => {
    const { user, address } = open('/wall')
    await user.type(await screen.findByRole('searchbox'), 'lar')
    expect(await screen.findByRole('option', { name: /Oddmere/ })).toBeTruthy()
    await user.keyboard('{ArrowDown}{ArrowDown}')
    expect(screen.getByRole('option', { name: /Oddmere/ }).getAttribute('aria-selected')).toBe('true')
    await user.keyboard('{Enter}')
    expect(address()).toBe('/wall?maker=Oddmere')
  })
})
