import { describe, expect, it } from 'vitest'
import { ENDPOINTS, type Endpoint, type EndpointName } from '#shared/contracts/endpoints'
import { findAnswerFault, toRequest } from './request'

describe('a request', () => {
  it('puts each field where the contract has it', () => {
    expect(toRequest('getSheet', { code: 'TIM 1/2', version: 3 })).toEqual({
      url: '/api/items/TIM%201%2F2',
      method: 'GET',
      params: { version: 3 },
    })
    expect(toRequest('pinItems', { id: 4, ids: [1, 2] })).toEqual({
      url: '/api/projects/4/pins',
      method: 'POST',
      body: { ids: [1, 2] },
    })
    expect(toRequest('renderFinal', { id: 9 })).toEqual({ url: '/api/items/9/final-preview', method: 'POST' })
    expect(toRequest('editBatchItems', { batchId: 2, ids: [1], name: 'Oak' })).toMatchObject({
      method: 'PATCH',
      body: { ids: [1] },
    })
    expect(toRequest('listRigs', undefined)).toEqual({ url: '/api/rigs', method: 'GET' })
  })

  it('is never in doubt: no endpoint has both a query and a body, or a parameter that its body also has', () => {
    const shapeOf = (schema: unknown): string[] => {
      const { shape, options, def } = schema as { shape?: object; options?: unknown[]; def?: { innerType?: unknown } }
      if (shape) return Object.keys(shape)
      return options ? options.flatMap(shapeOf) : def?.innerType ? shapeOf(def.innerType) : []
    }
    for (const name of Object.keys(ENDPOINTS) as EndpointName[]) {
      const { path, query, body }: Endpoint = ENDPOINTS[name]
      expect([name, Boolean(query && body)]).toEqual([name, false])
      const inPath = [...path.matchAll(/\{(\w+)\}/g)].map(m => m[1])
      const sent = [...(query ? shapeOf(query) : []), ...(body ? shapeOf(body) : [])]
      expect([name, inPath.filter(key => sent.includes(key))]).toEqual([name, []])
    }
  })

  it('holds an answer against the contract, and says what is wrong with it', () => {
    expect(findAnswerFault('listProjects', [])).toBeNull()
    expect(findAnswerFault('countMatching', { count: 'many' })).toMatch(/countMatching.*count/)
    expect(findAnswerFault('listProjects', { rows: [] })).toMatch(/all of it/)
    expect(findAnswerFault('bringOwnPicture', 'anything')).toBeNull()
  })
})
