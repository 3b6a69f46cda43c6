import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import Provider from 'oidc-provider'

export interface OutsideAccount {
  email?: string
  email_verified?: boolean
}

/** A small simulated sign-in service: whoever comes is taken for `who` without being asked. */
export interface OidcService {
  issuer: string
  accounts: Record<string, OutsideAccount>
  who: string
  /** Takes the place where browsers go back to. */
  knowClient: (redirectUri: string) => void
  close: () => Promise<void>
}

export const CLIENT = { id: 'muscovite', secret: 'a secret that the service knows' }

export async function startOidcService(): Promise<OidcService> {
  let provider: Provider | null = null
  const server: Server = createServer(async (req, res) => {
    if (!provider) return void res.writeHead(503).end()
    if (req.url?.startsWith('/interaction/'))
      return provider.interactionFinished(req, res, { login: { accountId: service.who } }).catch(() => res.writeHead(500).end())
    return provider.callback()(req, res)
  })
  await new Promise<void>(resolve => server.listen(0, '127.0.0.1', resolve))
  const issuer = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
  const service: OidcService = {
    issuer,
    accounts: {},
    who: '',
    knowClient: redirectUri => {
      provider = new Provider(issuer, {
        clients: [{ client_id: CLIENT.id, client_secret: CLIENT.secret, redirect_uris: [redirectUri] }],
        claims: { openid: ['sub'], email: ['email', 'email_verified'], profile: ['name'] },
        findAccount: (_ctx, accountId) => ({ accountId, claims: () => ({ sub: accountId, ...service.accounts[accountId] }) }),
        interactions: { url: (_ctx, { uid }) => `/interaction/${uid}` },
        // Everybody has agreed already that Muscovite learns who they are.
        loadExistingGrant: async ctx => {
          const { client, session } = ctx.oidc
          const grant = new ctx.oidc.provider.Grant({ clientId: client?.clientId, accountId: session?.accountId })
          grant.addOIDCScope('openid email profile')
          await grant.save()
          return grant
        },
        features: { devInteractions: { enabled: false } },
        cookies: { keys: ['a key for tests only'] },
      })
    },
    close: () =>
      new Promise(resolve => {
        server.closeAllConnections()
        server.close(() => resolve())
      }),
  }
  return service
}
