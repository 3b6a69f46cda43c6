import { describe, expect, it } from 'vitest'
import { z } from 'zod'
import { sayWithField, speakOurWords } from './schema-words'

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

  it('names its field where it stands alone, unless the schema has a sentence of its own', () => {
    const schema = z.object({
      title: z.string().min(1, 'Give the batch a title.'),
      items: z.array(z.object({ widthMm: z.number().max(9000) })),
      makerName: z.string().max(3),
    })
    const told = (value: unknown) => schema.safeParse(value).error!.issues.map(sayWithField)
    expect(told({ title: '', items: [{ widthMm: 9001 }], makerName: 'abcd' })).toEqual([
      'Give the batch a title.',
      'Width mm: at most 9000.',
      'Maker name: at most 3 characters.',
    ])
    expect(told({ title: 'x', items: [{ widthMm: 'wide' }] })).toEqual([
      'Width mm: a number belongs here.',
      'Maker name: this is missing.',
    ])
    expect(z.string().max(3).safeParse('abcd').error!.issues.map(sayWithField)).toEqual(['At most 3 characters.'])
  })
})
