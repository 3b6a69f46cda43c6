import { z } from 'zod'
import { sessionSchema } from '#shared/contracts/session.contract'

/** A failure that the caller reads as a sentence. */
export class ImportError extends Error {}

/** Who asks, and where. A demo installation's lead when nobody is named. */
export interface Credentials {
  /** Address of a running Muscovite. */
  server: string
  /** Made at People; in the place of an e-mail address and a password. */
  token?: string
  email?: string
  password?: string
}

export interface Client {
  name: string
  libraries: { key: string; title: string }[]
  /** What says who asks. */
  headers: Record<string, string>
  server: string
  ask: (method: 'GET' | 'POST', path: string, body?: unknown) => Promise<unknown>
}

/** What the environment says of who asks. */
export const credentialsOf = (env: NodeJS.ProcessEnv, server?: string, email?: string): Credentials => ({
  server: (server ?? env.MUSCOVITE_URL ?? 'http://127.0.0.1:5170').replace(/\/+$/, ''),
  token: env.MUSCOVITE_TOKEN,
  email,
  password: env.MUSCOVITE_PASSWORD,
})

/** @throws ImportError with a sentence for the person who typed the command */
export async function signIn({ server, token, email, password }: Credentials): Promise<Client> {
  const call = async (method: string, path: string, body: unknown, headers: Record<string, string>): Promise<Response> => {
    try {
      return await fetch(server + path, {
        method,
        headers: { ...(body === undefined ? {} : { 'Content-Type': 'application/json' }), ...headers },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      })
    } catch {
      throw new ImportError(`No Muscovite answers at ${server}. Start it, or name another address with --server.`)
    }
  }
  const read = async (response: Response): Promise<unknown> => {
    const answer: unknown = await response.json().catch(() => null)
    if (response.ok) return answer
    const said = z.object({ message: z.string() }).safeParse(answer)
    throw new ImportError(said.success ? said.data.message : `The server answered with ${response.status}.`)
  }
  let headers: Record<string, string> = token && !email ? { Authorization: `Bearer ${token}` } : {}
  let session = sessionSchema.parse(await read(await call('GET', '/api/session', undefined, headers)))
  if (!session.person) {
    const [demo] = session.demoPeople
    const who = email ? { email, password: password ?? '' } : demo ? { email: demo.email, password: demo.password } : null
    if (!who)
      throw new ImportError('Say who asks: a token in MUSCOVITE_TOKEN, or --as EMAIL with the password in MUSCOVITE_PASSWORD.')
    const response = await call('POST', '/api/session', who, {})
    session = sessionSchema.parse(await read(response))
    headers = { Cookie: response.headers.getSetCookie()[0]?.split(';')[0] ?? '' }
  }
  return {
    name: session.person?.name ?? '',
    libraries: session.libraries,
    headers,
    server,
    ask: async (method, path, body) => read(await call(method, path, body, headers)),
  }
}
