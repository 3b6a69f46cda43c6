import { expect, it } from 'vitest'
import { measureFindQuality } from './measure-find-quality'

it('things with known answers are found: words with mistakes and in other languages, colours, bounds, likeness', () => {
  const { recallAt10, mrr, groups } = measureFindQuality()
  console.log(JSON.stringify({ recallAt10, mrr, groups }))
  expect(Object.values(groups).reduce((sum, g) => sum + g.queries, 0)).toBeGreaterThanOrEqual(200)
  expect(recallAt10).toBeGreaterThan(0.95)
  expect(mrr).toBeGreaterThan(0.95)
  for (const group of Object.values(groups)) expect(Math.min(group.recallAt10, group.mrr)).toBeGreaterThan(0.9)
})
