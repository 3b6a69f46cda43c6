import { describe, expect, it } from 'vitest'
import { z } from 'zod'
import { speakOurWords } from './schema-words'

speakOurWords()
const say = (schema: z.ZodType, value: unknown) => schema.safeParse(value).error?.issues.map(i => i.message)

describe('what does not fit a schema', () => {
  it.each([
    ['too many', z.array(z.number()).max(2), [1, 2, 3], 'At most 2 at once: do it in parts.'],
    ['none', z.array(z.number()).min(1), [], 'At least one is needed.'],
    ['too long', z.string().max(3), 'abcd', 'At most 3 characters.'],
    ['empty', z.string().trim().min(1), ' ', 'This may not be empty.'],
    ['too much', z.number().max(5), 6, 'At most 5.'],
    ['not above', z.number().positive(), 0, 'More than 0.'],
    ['missing', z.object({ a: z.string() }), {}, 'This is missing.'],
    ['of another kind', z.number(), 'six', 'A number belongs here.'],
    ['a fraction', z.number().int(), 1.5, 'A whole number belongs here.'],
    ['not among those', z.enum(['draft', 'final']), 'x', 'One of these belongs here: draft, final.'],
    ['no address', z.email(), 'x', 'This is no e-mail address.'],
    ['unknown', z.strictObject({}), { b: 1 }, 'There is no b here.'],
  ])('is said in a sentence: %s', (_what, schema, value, sentence) => {
    expect(say(schema, value)).toEqual([sentence])
  })

  it('is said as the schema itself says it, where it does', () => {
    expect(say(z.string().min(1, 'Give the batch a title.'), '')).toEqual(['Give the batch a title.'])
  })
})
