import { lookup } from 'node:dns'
import type { LookupFunction } from 'node:net'
import ipaddr from 'ipaddr.js'
import { Agent, fetch } from 'undici'

/** Fetches from an address that a person typed: the only way of the program to such a one. */
export type FetchOutside = (url: string, init?: { signal?: AbortSignal; headers?: Record<string, string> }) => Promise<Response>

/** Thrown for an address inside the own network that no setting names. */
export class InsideNetworkError extends Error {
  constructor(readonly host: string) {
    super(`${host} lies inside the own network`)
    this.name = 'InsideNetworkError'
  }
}

/** Whether an address of a machine is one of the open network: not private, loopback, link-local, carrier's or reserved. */
export function isPublicAddress(address: string): boolean {
  if (!ipaddr.isValid(address)) return false
  const parsed = ipaddr.parse(address)
  const plain =
    parsed.kind() === 'ipv6' && (parsed as ipaddr.IPv6).isIPv4MappedAddress() ? (parsed as ipaddr.IPv6).toIPv4Address() : parsed
  return plain.range() === 'unicast'
}

/**
 * The name is resolved first, and what it resolves to is what is connected to: a name that leads to the open network when it is looked at
 * and into the own one when it is used gets nowhere. Redirects are not followed.
 * @param allowedHosts names or addresses of the own network that may be reached, with a port where only that is meant
 */
export function createFetchOutside(allowedHosts: readonly string[]): FetchOutside {
  const allowed = new Set(allowedHosts.map(h => h.toLowerCase()))
  const guarded: LookupFunction = (host, options, done) =>
    lookup(host, { ...options, all: true }, (error, addresses) => {
      if (error) return done(error, '', 0)
      const inside = addresses.find(a => !isPublicAddress(a.address))
      if (inside) return done(new InsideNetworkError(host), '', 0)
      return options.all ? done(null, addresses) : done(null, addresses[0].address, addresses[0].family)
    })
  const open = new Agent()
  const careful = new Agent({ connect: { lookup: guarded } })
  return async (url, init = {}) => {
    const { hostname, host } = new URL(url)
    const isAllowed = allowed.has(hostname.toLowerCase()) || allowed.has(host.toLowerCase())
    const literal = hostname.replace(/^\[|\]$/g, '')
    // What is an address already is not resolved.
    if (!isAllowed && ipaddr.isValid(literal) && !isPublicAddress(literal)) throw new InsideNetworkError(hostname)
    const answer = await fetch(url, { ...init, redirect: 'error', dispatcher: isAllowed ? open : careful }).catch(error => {
      throw error?.cause instanceof InsideNetworkError ? error.cause : error
    })
    return answer as unknown as Response
  }
}
