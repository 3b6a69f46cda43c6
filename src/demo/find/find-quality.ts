// How well things with known answers are found: npm run -s find-quality [-- --verbose]
import { measureFindQuality } from './measure-find-quality'

const { missed, ...quality } = measureFindQuality()
if (process.argv.includes('--verbose')) for (const what of missed) process.stderr.write(`${what}\n`)
process.stdout.write(`${JSON.stringify(quality, (_, value) => (typeof value === 'number' ? Number(value.toFixed(4)) : value))}\n`)
