import type { Express, Request } from 'express'
import type { Endpoint, EndpointInput, EndpointOutput } from '#shared/contracts/endpoints'
import type { Person } from '#shared/contracts/session.contract'
import { findActor, getActor, getAnybody } from './session'
import type { SnapshotAnswers } from './snapshot-answers'

export interface Call<E extends Endpoint> extends EndpointInput<E> {
  req: Request
  /** Null only where the endpoint is open. */
  actor: E extends { open: true } ? Person | null : Person
}

/**
 * Joins an endpoint of the contract to its use case: who asks, then what they sent, then the answer.
 * @param answers of what many ask for again and again and that depends on the database alone: read again only when that has changed
 */
export function route<E extends Endpoint>(
  app: Express,
  endpoint: E,
  run: (call: Call<E>) => Promise<EndpointOutput<E>>,
  answers?: SnapshotAnswers,
): void {
  app[endpoint.method](endpoint.path.replace(/\{(\w+)\}/g, ':$1'), async (req, res) => {
    const actor = endpoint.open ? findActor(req) : endpoint.guests ? getAnybody(req) : getActor(req)
    const call = {
      req,
      actor,
      params: endpoint.params?.parse(req.params),
      query: endpoint.query?.parse(req.query),
      body: endpoint.body?.parse(req.body),
    } as Call<E>
    if (answers) await answers.send(req, res, () => run(call))
    else res.json(await run(call))
  })
}
