import { eq } from 'drizzle-orm'
import * as oidc from 'openid-client'
import type { OutsideRefusal, Person } from '#shared/contracts/session.contract'
import { toPerson } from '../platform/access'
import type { Database } from '../platform/database'
import { recordEvents } from '../platform/events'
import type { Settings } from '../platform/settings'
import { people } from '../tables/people.table'

/** What a browser takes along to the service and must bring back; it stays in its session. */
export interface OutsideVisit {
  state: string
  nonce: string
  verifier: string
}

/** Why somebody who came back from the service is not let in. */
export class OutsideRefusalError extends Error {
  constructor(readonly refusal: OutsideRefusal) {
    super(refusal)
  }
}

/** Who somebody is at the service, as it vouches for it. */
export interface OutsideClaims {
  /** Service and subject there: the same person for ever. */
  subject: string
  /** Null where the service does not say that it is theirs. */
  email: string | null
}

type Service = NonNullable<Settings['outsideSignIn']>

/**
 * Signing in at the studio's own service: authorization code with PKCE.
 * Source: OpenID Connect Core 1.0, section 3.1; RFC 7636.
 */
export class OutsideSignIn {
  private known: Promise<oidc.Configuration> | null = null

  constructor(private readonly service: Service) {}

  /** The address a browser is sent to, and what it must bring back. @param back where it comes back to */
  async begin(back: string): Promise<{ url: string; visit: OutsideVisit }> {
    const config = await this.discover()
    const visit = { state: oidc.randomState(), nonce: oidc.randomNonce(), verifier: oidc.randomPKCECodeVerifier() }
    const url = oidc.buildAuthorizationUrl(config, {
      redirect_uri: back,
      scope: 'openid email profile',
      state: visit.state,
      nonce: visit.nonce,
      code_challenge: await oidc.calculatePKCECodeChallenge(visit.verifier),
      code_challenge_method: 'S256',
    })
    return { url: url.href, visit }
  }

  /** @param came the whole address that the browser came back with @throws Error where the service does not vouch for it */
  async finish(came: string, { state, nonce, verifier }: OutsideVisit): Promise<OutsideClaims> {
    const config = await this.discover()
    const tokens = await oidc.authorizationCodeGrant(config, new URL(came), {
      expectedState: state,
      expectedNonce: nonce,
      pkceCodeVerifier: verifier,
      idTokenExpected: true,
    })
    const claims = tokens.claims()!
    // Many services tell the address to those who ask for it only.
    const more = claims.email === undefined ? await oidc.fetchUserInfo(config, tokens.access_token, claims.sub) : claims
    const isTheirs = more.email_verified === true && typeof more.email === 'string'
    return {
      subject: `${claims.iss} ${claims.sub}`,
      email: isTheirs ? String(more.email).trim().toLowerCase() : null,
    }
  }

  /** Read once; again after a time in which the service was away. */
  private discover(): Promise<oidc.Configuration> {
    const { issuer, clientId, clientSecret } = this.service
    const url = new URL(issuer)
    const isHere = ['127.0.0.1', 'localhost', '[::1]'].includes(url.hostname)
    this.known ??= oidc.discovery(
      url,
      clientId,
      clientSecret,
      undefined,
      isHere ? { execute: [oidc.allowInsecureRequests] } : undefined,
    )
    this.known.catch(() => {
      this.known = null
    })
    return this.known
  }
}

/**
 * Whoever was invited under the address that the service vouches for; from then on by their subject there, whatever becomes of the address.
 * @throws OutsideRefusalError
 */
export async function findOutsidePerson(db: Database, { subject, email }: OutsideClaims): Promise<Person> {
  return db.transaction(async tx => {
    const [known] = await tx.select().from(people).where(eq(people.outsideSubject, subject))
    if (known) {
      if (known.deactivatedAt !== null) throw new OutsideRefusalError('letOut')
      return toPerson(known)
    }
    if (email === null) throw new OutsideRefusalError('unverified')
    const [invited] = await tx.select().from(people).where(eq(people.email, email)).for('update')
    // An address that was another account's before is not the same person.
    if (!invited || invited.outsideSubject !== null) throw new OutsideRefusalError('unknown')
    if (invited.deactivatedAt !== null) throw new OutsideRefusalError('letOut')
    await tx.update(people).set({ outsideSubject: subject }).where(eq(people.id, invited.id))
    await recordEvents(tx, [{ personId: invited.id, subject: 'person', subjectId: invited.id, verb: 'joined' }])
    return toPerson(invited)
  })
}
