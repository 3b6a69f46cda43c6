import { type MockUpItem, mockUpItemSchema } from '#shared/contracts/mock-ups.contract'

/** An item of a mock-up, of which only what matters is said. */
export const makeMockUpItem = (given: Partial<MockUpItem> & { key: string }): MockUpItem => {
  const { key, ...rest } = given
  return mockUpItemSchema.parse({
    ref: { code: key.toUpperCase(), version: 1, inputKey: keyOf(key) },
    state: 'approved',
    id: 1,
    name: key,
    kind: 'material',
    category: 'surfaces',
    newer: null,
    preview: null,
    widthMm: 800,
    tiling: 'repeat',
    constants: {},
    handedness: null,
    files: [],
    maker: '',
    licence: '',
    sizeM: null,
    sun: null,
    ...rest,
  })
}

/** Of what is called so: 64 digits. */
export const keyOf = (name: string): string =>
  [...name]
    .map(c => c.charCodeAt(0).toString(16))
    .join('')
    .padEnd(64, '0')
    .slice(0, 64)

/** A file of an item, as it is told to pages. */
export const makeFile = (role: string, position: number, mediaType = 'image/png'): MockUpItem['files'][number] => ({
  path: `${role}.png`,
  role,
  size: 1000,
  hash: 'f'.repeat(64),
  mediaType,
  handednessHint: null,
  url: `/api/versions/7/files/${position}`,
})
