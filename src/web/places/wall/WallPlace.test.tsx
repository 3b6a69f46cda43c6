// @vitest-environment jsdom
import { cleanup, screen, waitFor } from '@testing-library/react'
import { afterEach, beforeAll, describe, expect, it } from 'vitest'
import type { Chip } from '#shared/contracts/items.contract'
import type { Session } from '#shared/contracts/session.contract'
import { type Asked, completeBrowser, renderPage } from '../../testing/render-page'
import { WallPlace } from './WallPlace'

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
})
const ALL = [chip(1, 'Oak plank'), chip(2, 'Larch cladding')]

/** The wall over a server that finds by name alone. */
const open = (at: string) =>
  renderPage(<WallPlace session={SESSION} />, {
    at,
    answers: {
      'GET /api/categories': CATEGORIES,
      'GET /api/items': ({ query }: Asked) => {
        const words = (query.get('words') ?? '').toLowerCase()
        const chips = ALL.filter(c => c.name.toLowerCase().includes(words))
        return {
          total: chips.length,
          chips,
          facets: { categories: { surfaces: 2, 'surfaces.timber': 2 }, kinds: { material: 2 }, states: { approved: 2 } },
        }
      },
    },
  })

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

  it('that nobody could have made shows the whole wall', async () => {
    open('/wall?kind=teapot&state=17')
    expect(await screen.findByText('Oak plank')).toBeTruthy()
  })

  it('with nothing behind it says so, and leads back', async () => {
    const { user, address } = open('/wall?words=zebra')
    expect(await screen.findByText('Nothing matches.')).toBeTruthy()
    await user.click(screen.getByRole('button', { name: 'Show everything' }))
    expect(address()).toBe('/wall')
  })
})
