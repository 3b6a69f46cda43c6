import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { createFetchOutside, InsideNetworkError, isPublicAddress } from './fetch-outside'

let inside: Server
let port: number
let asked = 0
beforeAll(async () => {
  inside = createServer((_req, res) => {
    asked++
    res.end('secret')
  })
  await new Promise<void>(resolve => inside.listen(0, '127.0.0.1', resolve))
  port = (inside.address() as AddressInfo).port
})
afterAll(() => {
  inside.closeAllConnections()
  inside.close()
})

describe('an address', () => {
  it.each([
    '127.0.0.1',
    '10.1.2.3',
    '172.16.0.1',
    '192.168.1.1',
    '169.254.169.254',
    '100.64.0.1',
    '0.0.0.0',
    '::1',
    'fe80::1',
    'fc00::1',
    '::ffff:127.0.0.1',
    'x',
  ])('%s is of the own network, or of none', address => expect(isPublicAddress(address)).toBe(false))
  it.each(['93.184.216.34', '2606:2800:220:1:248:1893:25c8:1946'])('%s is of the open one', address =>
    expect(isPublicAddress(address)).toBe(true),
  )
})

describe('fetching outside', () => {
  it('does not reach the own machine, by address or by a name that leads there', async () => {
    const fetchOutside = createFetchOutside([])
    for (const host of ['127.0.0.1', 'localhost', '[::1]', '2130706433', '0x7f.1'])
      await expect(fetchOutside(`http://${host}:${port}/offer.json`)).rejects.toThrow(InsideNetworkError)
    expect(asked).toBe(0)
  })

  it('reaches what the settings name, at that port only where one is named', async () => {
    const byPort = createFetchOutside([`127.0.0.1:${port}`])
    expect(await (await byPort(`http://127.0.0.1:${port}/`)).text()).toBe('secret')
    await expect(byPort(`http://127.0.0.1:${port + 1}/`)).rejects.toThrow(InsideNetworkError)
    expect(await (await createFetchOutside(['LOCALHOST'])(`http://localhost:${port}/`)).text()).toBe('secret')
  })
})
