import { setTimeout } from 'node:timers/promises'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { changePerson, invitePerson } from '../../src/server/people/members'
import type { Session } from '../../src/shared/contracts/session.contract'
import { CLIENT, type OidcService, startOidcService } from '../oidc-service'
import { createTestWorld, type TestWorld } from '../test-database'
import { serve } from './serve'

let world: TestWorld
let service: OidcService
let app: Awaited<ReturnType<typeof serve>>

beforeAll(async () => {
  world = await createTestWorld()
  service = await startOidcService()
  app = await serve(world, {
    MUSCOVITE_OIDC_ISSUER: service.issuer,
    MUSCOVITE_OIDC_CLIENT_ID: CLIENT.id,
    MUSCOVITE_OIDC_CLIENT_SECRET: CLIENT.secret,
    MUSCOVITE_OIDC_TITLE: 'Harbour account',
  })
})
afterAll(async () => {
  await app.close()
  await service.close()
  await world.close()
})

/** A browser: keeps the cookies of each address, and follows where it is sent until it is back on a page of Muscovite. */
function createBrowser() {
  const jars = new Map<string, Map<string, string>>()
  const go = async (address: string) => {
    const { origin } = new URL(address)
    const jar = jars.get(origin) ?? new Map<string, string>()
    jars.set(origin, jar)
    const response = await fetch(address, {
      redirect: 'manual',
      headers: { Cookie: [...jar].map(([name, value]) => `${name}=${value}`).join('; ') },
    })
    for (const cookie of response.headers.getSetCookie()) {
      const [name, ...value] = cookie.split(';')[0].split('=')
      jar.set(name, value.join('='))
    }
    return response
  }
  const follow = async (start: string) => {
    const visited = [start]
    for (let step = 0; step < 12; step++) {
      const response = await go(visited.at(-1)!)
      const next = response.headers.get('location')
      if (!next) return visited
      visited.push(new URL(next, visited.at(-1)).href)
    }
    throw new Error(`no end: ${visited.join(' ')}`)
  }
  return {
    go,
    /** Signs in at the service, and tells where that ends. */
    signIn: async (who: string) => {
      service.who = who
      const visited = await follow(`${app.base}/api/sign-in/outside`)
      const { pathname, search } = new URL(visited.at(-1)!)
      return { end: pathname + search, visited }
    },
    session: async (): Promise<Session> => (await go(`${app.base}/api/session`)).json(),
  }
}

describe('the studio’s sign-in service', () => {
  it('that does not answer says so, and passwords go on working', async () => {
    expect((await createBrowser().signIn('any')).end).toBe('/?refused=away')
    service.knowClient(`${app.base}/api/sign-in/outside/back`)
    expect((await createBrowser().session()).outsideSignIn).toBe('Harbour account')
  })

  it('lets in whoever was invited, without a password of theirs here', async () => {
    await invitePerson(world.context.db, world.lead, {
      name: 'Mira Holt',
      email: 'mira@studio.example',
      role: 'artist',
      libraryIds: [],
    })
    service.accounts['m-17'] = { email: 'Mira@Studio.example', email_verified: true }
    const browser = createBrowser()
    const { end, visited } = await browser.signIn('m-17')
    expect(end).toBe('/')
    expect((await browser.session()).person).toMatchObject({ name: 'Mira Holt', role: 'artist' })
    // What came back is worth nothing a second time, nor in another browser.
    const back = visited.find(address => address.includes('/back?'))!
    expect((await browser.go(back)).headers.get('location')).toBe('/?refused=failed')
    const thief = createBrowser()
    expect((await thief.go(back)).headers.get('location')).toBe('/?refused=failed')
    expect((await thief.session()).person).toBeNull()
  })

  it('knows them again by their subject, whatever becomes of the address; the address alone is nobody', async () => {
    service.accounts['m-17'] = { email: 'mira.holt@elsewhere.example', email_verified: true }
    const browser = createBrowser()
    await browser.signIn('m-17')
    expect((await browser.session()).person?.name).toBe('Mira Holt')
    service.accounts['x-99'] = { email: 'mira@studio.example', email_verified: true }
    expect((await createBrowser().signIn('x-99')).end).toBe('/?refused=unknown')
  })

  it('finds again whoever is back before a slow database has written that they left', async () => {
    const slow = await world.pool.connect()
    await slow.query('begin')
    await slow.query('lock table sessions in share row exclusive mode')
    const signedIn = createBrowser().signIn('m-17')
    await setTimeout(600)
    await slow.query('commit')
    slow.release()
    expect((await signedIn).end).toBe('/')
  })

  it('lets in nobody who was not invited, whose address is not confirmed, or who was let out', async () => {
    service.accounts['s-1'] = { email: 'stranger@studio.example', email_verified: true }
    expect((await createBrowser().signIn('s-1')).end).toBe('/?refused=unknown')
    service.accounts['a-1'] = { email: 'arne@studio.example', email_verified: false }
    expect((await createBrowser().signIn('a-1')).end).toBe('/?refused=unverified')
    service.accounts['n-1'] = {}
    expect((await createBrowser().signIn('n-1')).end).toBe('/?refused=unverified')
    const browser = createBrowser()
    await browser.signIn('m-17')
    const { id } = (await browser.session()).person!
    await changePerson(world.context.db, world.lead, id, { isActive: false })
    expect((await createBrowser().signIn('m-17')).end).toBe('/?refused=letOut')
    expect((await browser.session()).person).toBeNull()
  })
})
