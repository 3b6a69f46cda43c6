import { cleanup, screen, waitFor, within } from '@testing-library/react'
import { afterEach, beforeAll, describe, expect, it } from 'vitest'
import type { OpenSession } from '#shared/contracts/people.contract'
import type { Session } from '#shared/contracts/session.contract'
import { CarryMenu } from '../../components/CarryMenu'
import { SessionsDialog } from '../../components/dialogs/SessionsDialog'
import { type Asked, completeBrowser, renderPage } from '../../testing/render-page'
import { SignInPlace } from '../sign-in/SignInPlace'

beforeAll(completeBrowser)
afterEach(cleanup)

const session = (role: 'lead' | 'artist'): Session => ({
  person: { id: 1, name: 'Ines Quist', email: 'ines@studio.example', role },
  libraries: [
    { id: 1, key: 'house', title: 'House library', kind: 'house' },
    { id: 2, key: 'kettles', title: 'Kettle client', kind: 'client' },
  ],
  studio: 'Pale Harbour',
  outsideSignIn: null,
  demoPeople: [],
})

describe('the sign-in page', () => {
  it('leads to the studio’s own service where there is one, and says why it let nobody in', () => {
    renderPage(<SignInPlace studio="Pale Harbour" outsideSignIn="Harbour account" demoPeople={[]} />, { at: '/?refused=unknown' })
    expect(screen.getByRole('link', { name: 'Sign in with Harbour account' }).getAttribute('href')).toBe('/api/sign-in/outside')
    expect(screen.getByRole('alert').textContent).toMatch(/Ask a library lead for an invitation/)
  })

  it('says nothing of a service that there is not, or of a reason that is none', () => {
    renderPage(<SignInPlace studio="Pale Harbour" outsideSignIn={null} demoPeople={[]} />, { at: '/?refused=<b>' })
    expect(screen.queryByRole('link')).toBeNull()
    expect(screen.queryByRole('alert')).toBeNull()
  })
})

describe('carrying into another library', () => {
  const chips = [
    { id: 7, library: 'House library' },
    { id: 8, library: 'House library' },
  ]
  const open = (role: 'lead' | 'artist', refused: { id: number; code: string; reason: string }[] = []) => {
    const done: number[][] = []
    const page = renderPage(<CarryMenu chips={chips} onDone={ids => done.push(ids)} />, {
      answers: {
        'GET /api/session': session(role),
        'POST /api/items/carry': ({ body }: Asked) => {
          const changed = (body as { ids: number[] }).ids.filter(id => !refused.some(r => r.id === id))
          return { changed, refused, made: [] }
        },
      },
    })
    return { ...page, done }
  }

  it('is offered for libraries that they are not in; what was refused stays', async () => {
    const { user, asked, done } = open('lead', [{ id: 8, code: 'TIM-0002', reason: 'A project outside that library uses it.' }])
    await user.click(await screen.findByRole('button', { name: 'Into library' }))
    expect(screen.getAllByRole('menuitem').map(m => m.textContent)).toEqual([
      'Copy into Kettle client',
      'Move into Kettle client',
    ])
    await user.click(screen.getByRole('menuitem', { name: 'Move into Kettle client' }))
    await waitFor(() => expect(done).toEqual([[8]]))
    expect(asked.find(a => a.method === 'POST')?.body).toEqual({ ids: [7, 8], library: 'kettles', as: 'move' })
  })

  it('is not offered to those who do not build libraries', async () => {
    const { asked } = open('artist')
    await waitFor(() => expect(asked).toHaveLength(1))
    expect(screen.queryByRole('button')).toBeNull()
  })
})

describe('where somebody is signed in', () => {
  it('lists each browser, ends one, and shows that it is gone', async () => {
    const at = '2026-11-27T10:00:00.000Z'
    const open = new Map<string, OpenSession>(
      ['Firefox on Linux', 'Chrome on Windows'].map((browser, i) => [
        `${i}`.repeat(32),
        { key: `${i}`.repeat(32), browser, begunAt: at, seenAt: at, isThis: i === 0 },
      ]),
    )
    const { user, asked } = renderPage(<SessionsDialog person={{ id: 1, name: 'Ines Quist' }} isOwn onClose={() => {}} />, {
      answers: {
        'GET /api/people/1/sessions': () => [...open.values()],
        [`DELETE /api/people/1/sessions/${'1'.repeat(32)}`]: () => {
          open.delete('1'.repeat(32))
          return { ok: true }
        },
      },
    })
    const dialog = await screen.findByRole('dialog', { name: 'Where you are signed in' })
    expect(await within(dialog).findByText('this browser')).toBeTruthy()
    expect(within(dialog).getAllByRole('listitem')).toHaveLength(2)
    await user.click(within(dialog).getByRole('button', { name: 'Sign out Chrome on Windows' }))
    await waitFor(() => expect(within(dialog).getAllByRole('listitem')).toHaveLength(1))
    expect(asked.filter(a => a.method === 'DELETE')).toHaveLength(1)
  })
})
