import type { FetchArgs } from '@reduxjs/toolkit/query/react'
import type { z } from 'zod'
import { ENDPOINTS, type Endpoint, type EndpointName } from '#shared/contracts/endpoints'

type SentAs<T> = T extends z.ZodType ? z.input<T> : unknown
/** What an endpoint is asked with: its path's parameters and its query's or body's fields side by side; nothing where it has none. */
export type ArgsOf<E extends Endpoint> = E extends { params: z.ZodType } | { query: z.ZodType } | { body: z.ZodType }
  ? (E['params'] extends z.ZodType ? z.output<E['params']> : unknown) &
      Exclude<SentAs<E['query']>, undefined> &
      Exclude<SentAs<E['body']>, undefined>
  : // biome-ignore lint/suspicious/noConfusingVoidType: hooks without an argument are typed so
    void
export type AnswerOf<E extends Endpoint> = z.output<E['response']>
export type EndpointOf<N extends EndpointName> = (typeof ENDPOINTS)[N]

/** A request as the contract describes it: fields that the path names go there, the others into the query or the body. */
export function toRequest(name: EndpointName, args: unknown): FetchArgs {
  const { path, method: verb, query }: Endpoint = ENDPOINTS[name]
  // A browser sends most verbs in capitals however they are written, and PATCH as it stands.
  const method = verb.toUpperCase()
  const rest: Record<string, unknown> = { ...(args as object | undefined) }
  const url = path.replace(/\{(\w+)\}/g, (_, key: string) => {
    const value = rest[key]
    delete rest[key]
    return encodeURIComponent(String(value))
  })
  if (query) return { url, method, params: rest }
  return Object.keys(rest).length > 0 ? { url, method, body: rest } : { url, method }
}

/**
 * Whether an answer is as the contract says, as a sentence; null where it is. Answers are not read through it by default, because the
 * server is of the same version and they are long.
 */
export function findAnswerFault(name: string, answer: unknown): string | null {
  const endpoint = (ENDPOINTS as Record<string, Endpoint>)[name]
  const parsed = endpoint?.response.safeParse(answer)
  if (!parsed || parsed.success) return null
  const { path, message } = parsed.error.issues[0]
  return `The answer to ${name} is not as the contract says: ${path.join('.') || 'all of it'}: ${message}`
}
