import type { AddressInfo } from 'node:net'
import { eq, sql } from 'drizzle-orm'
import { SMTPServer } from 'smtp-server'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { signIn as signInWith } from '../../src/cli/client'
import { ITEM_KINDS } from '../../src/core/standard/categories'
import { listCategories } from '../../src/server/library/wall'
import { openLink } from '../../src/server/people/access-links'
import { listTokens, makeToken, revokeToken } from '../../src/server/people/api-tokens'
import { addLibrary, changeLibrary, listLibraries, listManagedLibraries } from '../../src/server/people/libraries'
import { changePerson, followLink, invitePerson, listMembers, makeLink } from '../../src/server/people/members'
import { signIn } from '../../src/server/people/people'
import { foundStudio, offerFoundation } from '../../src/server/standard/found-studio'
import { accessLinks } from '../../src/server/tables/people.table'
import type { OpenSession } from '../../src/shared/contracts/people.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { refused } from './refused'
import { serve } from './serve'

let world: TestWorld
let app: Awaited<ReturnType<typeof serve>>
beforeAll(async () => {
  world = await createTestWorld()
  app = await serve(world)
})
afterAll(async () => {
  await app.close()
  await world.close()
})

const tokenOf = (path: string) => path.split('/').pop()!
const PASSWORD = 'a long enough password'

/** A browser: keeps its cookie. */
function createBrowser() {
  let cookie = ''
  const ask = async (method: string, path: string, body?: unknown) => {
    const response = await fetch(app.base + path, {
      method,
      headers: { Cookie: cookie, ...(body === undefined ? {} : { 'Content-Type': 'application/json' }) },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    })
    cookie = response.headers.getSetCookie()[0]?.split(';')[0] ?? cookie
    return { status: response.status, body: await response.json() }
  }
  return { ask, who: async () => (await ask('GET', '/api/session')).body.person?.name ?? null }
}

describe('somebody invited', () => {
  it('has no way in before the link, one with it, and the link works once', async () => {
    const { db } = world.context
    const { id, path } = await invitePerson(db, world.lead, {
      name: 'Mira Holt',
      email: ' Mira@Studio.example ',
      role: 'artist',
      libraryIds: [],
    })
    expect(await refused(signIn(db, { email: 'mira@studio.example', password: '' }))).toBe('notSignedIn')
    expect(await openLink(db, tokenOf(path))).toMatchObject({ purpose: 'join', name: 'Mira Holt', email: 'mira@studio.example' })
    const browser = createBrowser()
    expect((await browser.ask('POST', `/api/links/${tokenOf(path)}`, { password: 'short' })).status).toBe(400)
    expect((await browser.ask('POST', `/api/links/${tokenOf(path)}`, { password: PASSWORD })).body.person).toMatchObject({
      id,
      role: 'artist',
    })
    expect(await browser.who()).toBe('Mira Holt')
    expect(
      (await createBrowser().ask('POST', `/api/links/${tokenOf(path)}`, { password: 'somebody else entirely' })).status,
    ).toBe(404)
    expect((await signIn(db, { email: 'mira@studio.example', password: PASSWORD })).id).toBe(id)
    const [{ rows }] = [await db.execute<{ tokens: string }>(sql`select string_agg(token_hash, ' ') as tokens from access_links`)]
    expect(rows[0].tokens ?? '').not.toContain(tokenOf(path))
  })

  it('twice, or by somebody who is no lead, is refused', async () => {
    const { db } = world.context
    const given = { name: 'Mira Again', email: 'mira@studio.example', role: 'artist' as const, libraryIds: [] }
    expect(await refused(invitePerson(db, world.lead, given))).toBe('conflict')
    expect(await refused(invitePerson(db, world.artist, { ...given, email: 'other@studio.example' }))).toBe('notAllowed')
    expect(await refused(makeLink(db, world.artist, world.lead.id))).toBe('notAllowed')
  })

  it('cannot come by a link that is too old, or that another took the place of', async () => {
    const { db } = world.context
    const { id, path } = await invitePerson(db, world.lead, {
      name: 'Late',
      email: 'late@studio.example',
      role: 'artist',
      libraryIds: [],
    })
    const { path: second } = await makeLink(db, world.lead, id)
    expect(await refused(followLink(db, tokenOf(path), PASSWORD))).toBe('notFound')
    await db
      .update(accessLinks)
      .set({ expiresAt: new Date(Date.now() - 1000) })
      .where(eq(accessLinks.personId, id))
    expect(await refused(openLink(db, tokenOf(second)))).toBe('notFound')
    expect(await refused(followLink(db, tokenOf(second), PASSWORD))).toBe('notFound')
  })
})

describe('a mail server', () => {
  it('gets the link where one is set; the link is shown all the same when it does not take it', async () => {
    const mails: string[] = []
    const sink = new SMTPServer({
      authOptional: true,
      disabledCommands: ['STARTTLS'],
      onData: (stream, _session, done) => {
        const parts: Buffer[] = []
        stream.on('data', part => parts.push(part))
        stream.on('end', () => {
          mails.push(Buffer.concat(parts).toString('utf8').replaceAll('=\r\n', ''))
          done()
        })
      },
    })
    await new Promise<void>(resolve => sink.listen(0, '127.0.0.1', resolve))
    const { port } = sink.server.address() as AddressInfo
    const mailing = await serve(world, {
      MUSCOVITE_SMTP_URL: `smtp://127.0.0.1:${port}`,
      MUSCOVITE_SMTP_FROM: 'Samples <samples@studio.example>',
      MUSCOVITE_PUBLIC_URL: 'https://samples.studio.example',
    })
    const { token } = await makeToken(world.context.db, world.lead, { title: 'Mails', scope: 'all' })
    const invite = async (email: string) => {
      const response = await fetch(`${mailing.base}/api/people`, {
        method: 'POST',
        headers: { Authorization: `Bearer ${token}`, 'Content-Type': 'application/json' },
        body: JSON.stringify({ name: 'Per Post', email, role: 'artist' }),
      })
      return (await response.json()) as { path: string; mail: string }
    }
    const invited = await invite('post@studio.example')
    expect(invited.mail).toBe('sent')
    expect(mails).toHaveLength(1)
    expect(mails[0]).toContain('To: Per Post <post@studio.example>')
    expect(mails[0]).toContain(`https://samples.studio.example${invited.path}`)
    await new Promise<void>(resolve => sink.close(resolve))
    const second = await invite('second.post@studio.example')
    expect(second).toMatchObject({ mail: 'failed', path: expect.stringContaining('/welcome/') })
    await mailing.close()
  })
})

describe('somebody let out', () => {
  it('is signed out everywhere at once, keeps their name in the record, and comes back as they were', async () => {
    const { db } = world.context
    const mira = (await listMembers(db, world.lead)).find(m => m.name === 'Mira Holt')!
    const browser = createBrowser()
    await browser.ask('POST', '/api/session', { email: mira.email, password: PASSWORD })
    expect(await browser.who()).toBe('Mira Holt')
    await changePerson(db, world.lead, mira.id, { isActive: false })
    expect(await browser.who()).toBeNull()
    expect(await refused(signIn(db, { email: mira.email, password: PASSWORD }))).toBe('notSignedIn')
    expect(await refused(makeLink(db, world.lead, mira.id))).toBe('conflict')
    expect((await listMembers(db, world.lead)).at(-1)).toMatchObject({ name: 'Mira Holt', isActive: false })
    await changePerson(db, world.lead, mira.id, { isActive: true })
    expect((await signIn(db, { email: mira.email, password: PASSWORD })).id).toBe(mira.id)
    const { rows } = await db.execute<{ verb: string }>(
      sql`select verb from events where subject = 'person' and subject_id = ${mira.id} order by id`,
    )
    expect(rows.map(r => r.verb)).toEqual(['invited', 'joined', 'changed', 'changed'])
  })

  it('is never the last lead, nor oneself', async () => {
    const { db } = world.context
    expect(await refused(changePerson(db, world.lead, world.lead.id, { role: 'artist' }))).toBe('conflict')
    expect(await refused(changePerson(db, world.lead, world.lead.id, { isActive: false }))).toBe('conflict')
    const { id } = await invitePerson(db, world.lead, {
      name: 'Second lead',
      email: 'second@studio.example',
      role: 'lead',
      libraryIds: [],
    })
    // Invited, and not come yet: no lead that could do anything.
    expect(await refused(changePerson(db, { id, role: 'lead' }, world.lead.id, { role: 'artist' }))).toBe('conflict')
    await followLink(db, tokenOf((await makeLink(db, world.lead, id)).path), PASSWORD)
    await changePerson(db, { id, role: 'lead' }, world.lead.id, { role: 'artist' })
    await changePerson(db, { id, role: 'lead' }, world.lead.id, { role: 'lead' })
  })
})

describe('passwords and sessions', () => {
  it('a new password signs other browsers out and this one not; the old one is worth nothing', async () => {
    const { db } = world.context
    const [here, there] = [createBrowser(), createBrowser()]
    for (const browser of [here, there])
      await browser.ask('POST', '/api/session', { email: 'mira@studio.example', password: PASSWORD })
    expect((await here.ask('POST', '/api/password', { current: 'not it at all', next: 'another long password' })).status).toBe(
      400,
    )
    expect((await here.ask('POST', '/api/password', { current: PASSWORD, next: 'another long password' })).status).toBe(200)
    expect([await here.who(), await there.who()]).toEqual(['Mira Holt', null])
    expect(await refused(signIn(db, { email: 'mira@studio.example', password: PASSWORD }))).toBe('notSignedIn')
  })

  it('a lead ends somebody’s sessions, an artist only their own', async () => {
    const mira = createBrowser()
    await mira.ask('POST', '/api/session', { email: 'mira@studio.example', password: 'another long password' })
    expect((await mira.ask('DELETE', `/api/people/${world.lead.id}/sessions`)).status).toBe(403)
    const { id } = (await mira.ask('GET', '/api/session')).body.person
    const other = createBrowser()
    await other.ask('POST', '/api/session', { email: 'mira@studio.example', password: 'another long password' })
    const listed = (await mira.ask('GET', `/api/people/${id}/sessions`)).body as OpenSession[]
    expect(listed.filter(s => s.isThis)).toHaveLength(1)
    expect(listed.every(s => s.browser !== '' && s.begunAt !== null)).toBe(true)
    expect((await mira.ask('GET', `/api/people/${world.lead.id}/sessions`)).status).toBe(403)
    const third = createBrowser()
    await third.ask('POST', '/api/session', { email: 'mira@studio.example', password: 'another long password' })
    const known = new Set(listed.map(s => s.key))
    const [added] = ((await mira.ask('GET', `/api/people/${id}/sessions`)).body as OpenSession[]).filter(s => !known.has(s.key))
    expect((await other.ask('DELETE', `/api/people/${id}/sessions/${added.key}`)).status).toBe(200)
    expect([await mira.who(), await other.who(), await third.who()]).toEqual(['Mira Holt', 'Mira Holt', null])
    expect((await other.ask('DELETE', `/api/people/${id}/sessions/${added.key}`)).status).toBe(404)
    expect((await mira.ask('DELETE', `/api/people/${id}/sessions`)).body.count).toBeGreaterThan(0)
    expect([await mira.who(), await other.who()]).toEqual(['Mira Holt', null])
  })
})

describe('a token', () => {
  const withToken = (token: string, method: string, path: string, body?: unknown) =>
    fetch(app.base + path, {
      method,
      headers: { Authorization: `Bearer ${token}`, ...(body === undefined ? {} : { 'Content-Type': 'application/json' }) },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    })
  const BATCH = { library: 'house', title: 'By token', maker: '', licence: '' }

  it('is its person as far as its scope goes, leaves no session, and works no more once revoked', async () => {
    const { db } = world.context
    const { token: reads } = await makeToken(db, world.lead, { title: 'Looks', scope: 'read' })
    const { token: brings, id } = await makeToken(db, world.lead, { title: 'Farm', scope: 'bring' })
    const { token: all } = await makeToken(db, world.lead, { title: 'All', scope: 'all' })
    const countSessions = async () => (await db.execute<{ n: number }>(sql`select count(*)::int as n from sessions`)).rows[0].n
    const before = await countSessions()
    const who = await withToken(reads, 'GET', '/api/session')
    expect((await who.json()).person.name).toBe(world.lead.name)
    expect(who.headers.getSetCookie()).toEqual([])
    expect((await withToken(reads, 'POST', '/api/batches', BATCH)).status).toBe(403)
    expect((await withToken(brings, 'POST', '/api/batches', BATCH)).status).toBe(200)
    expect((await withToken(brings, 'POST', '/api/people', { name: 'X', email: 'x@x.example', role: 'lead' })).status).toBe(403)
    expect((await withToken(all, 'POST', '/api/libraries', { title: 'By token' })).status).toBe(200)
    expect(await countSessions()).toBe(before)
    expect((await listTokens(db, world.lead)).find(t => t.id === id)?.lastUsedAt).not.toBeNull()
    expect(await refused(revokeToken(db, world.artist, id))).toBe('notFound')
    await revokeToken(db, world.lead, id)
    expect((await withToken(brings, 'GET', '/api/session')).status).toBe(401)
    expect((await withToken('muscovite_made-up', 'GET', '/api/people')).status).toBe(401)
    const { rows } = await db.execute<{ hashes: string }>(sql`select string_agg(token_hash, ' ') as hashes from api_tokens`)
    expect(rows[0].hashes).not.toContain(reads.slice(10))
  })

  it('ends with its person being let out', async () => {
    const { db } = world.context
    const mira = (await listMembers(db, world.lead)).find(m => m.name === 'Mira Holt')!
    const { token } = await makeToken(db, mira, { title: 'Mine', scope: 'read' })
    expect((await withToken(token, 'GET', '/api/people')).status).toBe(200)
    await changePerson(db, world.lead, mira.id, { isActive: false })
    expect((await withToken(token, 'GET', '/api/people')).status).toBe(401)
    await changePerson(db, world.lead, mira.id, { isActive: true })
  })

  it('lets the command line in', async () => {
    const { token } = await makeToken(world.context.db, world.lead, { title: 'Console', scope: 'bring' })
    const client = await signInWith({ server: app.base, token })
    expect(client.name).toBe(world.lead.name)
    expect(client.libraries.map(l => l.key)).toContain('house')
    await expect(signInWith({ server: app.base, token: `${token}x` })).rejects.toThrow(/works no more/)
    await expect(signInWith({ server: app.base, email: 'nobody@x.example', password: 'x' })).rejects.toThrow(
      /do not belong together/,
    )
  })
})

describe("a client's library", () => {
  it('exists for its team alone; teams that one cannot see are neither shown nor changed', async () => {
    const { db } = world.context
    const id = await addLibrary(db, world.lead, 'Übersee Kontor')
    expect((await listLibraries(db, world.lead)).find(l => l.id === id)).toMatchObject({ key: 'ubersee-kontor', kind: 'client' })
    const second = await addLibrary(db, world.lead, 'Ubersee kontor')
    expect((await listLibraries(db, world.lead)).find(l => l.id === second)?.key).toBe('ubersee-kontor-2')
    expect((await listLibraries(db, world.artist)).map(l => l.id)).not.toContain(id)
    await changePerson(db, world.lead, world.artist.id, { libraryIds: [id] })
    expect((await listLibraries(db, world.artist)).map(l => l.id)).toContain(id)
    const outsider = (await listMembers(db, world.lead)).find(m => m.name === 'Second lead')!
    await changePerson(db, outsider, world.artist.id, { libraryIds: [] })
    expect((await listLibraries(db, world.artist)).map(l => l.id)).toContain(id)
    expect((await listMembers(db, outsider)).find(m => m.id === world.artist.id)?.libraries.map(l => l.id)).not.toContain(id)
    expect(await refused(changeLibrary(db, outsider, id, { title: 'Mine now' }))).toBe('notFound')
    expect(await refused(addLibrary(db, world.artist, 'No'))).toBe('notAllowed')
  })

  it('is renamed, put out of sight with all that is in it, and brought back; the house library stays', async () => {
    const { db } = world.context
    const { id } = (await listManagedLibraries(db, world.lead)).find(l => l.title === 'Übersee Kontor')!
    await changeLibrary(db, world.lead, id, { title: 'Overseas', isArchived: true })
    expect((await listLibraries(db, world.lead)).map(l => l.id)).not.toContain(id)
    expect((await listManagedLibraries(db, world.lead)).at(-1)).toMatchObject({ title: 'Overseas', isArchived: true, people: 2 })
    await changeLibrary(db, world.lead, id, { isArchived: false })
    expect((await listLibraries(db, world.artist)).map(l => l.title)).toContain('Overseas')
    const house = (await listManagedLibraries(db, world.lead)).find(l => l.kind === 'house')!
    expect(await refused(changeLibrary(db, world.lead, house.id, { isArchived: true }))).toBe('conflict')
  })
})

describe('an empty installation', () => {
  const FIRST = { studio: 'Grey Gull', name: 'Ada Finn', email: 'ada@greygull.example', password: PASSWORD }
  const emptied = async () => {
    const empty = await createTestWorld()
    await empty.context.db.execute(sql`truncate people, libraries, events cascade`)
    return empty
  }

  it('is founded once, by the link that the console shows', async () => {
    expect(await offerFoundation(world.context.db)).toBeNull()
    const empty = await emptied()
    const { db } = empty.context
    const token = tokenOf((await offerFoundation(db))!)
    const other = tokenOf((await offerFoundation(db))!)
    expect(await openLink(db, token)).toMatchObject({ purpose: 'found', studio: null })
    expect(await refused(followLink(db, token, PASSWORD))).toBe('badRequest')
    const lead = await foundStudio(db, token, { ...FIRST, tree: 'shipped' })
    expect(lead).toMatchObject({ name: 'Ada Finn', role: 'lead' })
    expect((await signIn(db, FIRST)).id).toBe(lead.id)
    expect((await listLibraries(db, lead)).map(l => l.key)).toEqual(['house'])
    expect(await refused(foundStudio(db, token, { ...FIRST, email: 'b@x.example', tree: 'shipped' }))).toBe('notFound')
    expect(await refused(foundStudio(db, other, { ...FIRST, email: 'b@x.example', tree: 'shipped' }))).toBe('conflict')
    await empty.close()
  })

  it('takes its first level alone, or a tree from a file, and Intake still finds a place for everything', async () => {
    const empty = await emptied()
    const { db } = empty.context
    const lead = await foundStudio(db, tokenOf((await offerFoundation(db))!), {
      ...FIRST,
      tree: [
        { path: 'finishes', title: 'Finishes', kind: 'material', prefix: 'FIN' },
        { path: 'finishes.wood', title: 'Wood', kind: 'material', prefix: 'TIM' },
      ],
    })
    const tree = await listCategories(empty.context, lead)
    expect(tree.filter(c => c.kind === 'material').map(c => [c.path, c.prefix])).toEqual([
      ['finishes', 'FIN'],
      ['finishes.wood', 'TIM'],
    ])
    // Of the other kinds, of which the file says nothing, the shipped first level stays.
    expect(new Set(tree.map(c => c.kind))).toEqual(new Set(ITEM_KINDS))
    expect(tree.every(c => c.kind === 'material' || !c.path.includes('.'))).toBe(true)
    const { rows } = await db.execute<{ into: string }>(
      sql`select retired_into::text as into from categories where path = 'surfaces.timber'`,
    )
    expect(rows[0].into).toBe('finishes')
    await empty.close()
  })

  it('says which line of a tree is at fault, and is not half founded', async () => {
    const empty = await emptied()
    const { db } = empty.context
    const token = tokenOf((await offerFoundation(db))!)
    const tree = [{ path: 'a.b', title: 'B', kind: 'material' as const, prefix: 'BBB' }]
    await expect(foundStudio(db, token, { ...FIRST, tree })).rejects.toThrow(/a\.b lies in a, which does not stand before it/)
    expect((await foundStudio(db, token, { ...FIRST, tree: 'empty' })).name).toBe('Ada Finn')
    await empty.close()
  })
})
