import { afterEach, describe, expect, it, vi } from 'vitest'

const { toast } = vi.hoisted(() => ({
  toast: { loading: vi.fn(), dismiss: vi.fn(), success: vi.fn(), warning: vi.fn(), error: vi.fn() },
}))
vi.mock('sonner', () => ({ toast }))

const { sendTelling, tellBulk } = await import('./bulk-words')

afterEach(() => {
  vi.clearAllMocks()
})
const ids = [1, 2, 3, 4, 5]
const takeAll = async (part: number[]) => ({ data: { changed: part, refused: [] } })

describe('many that are sent', () => {
  it('say how many have been come to, in one message that goes when they are', async () => {
    await sendTelling(ids, 2, takeAll)
    expect(toast.loading.mock.calls.map(([text]) => text)).toEqual(['0 of 5 done…', '2 of 5 done…', '4 of 5 done…'])
    expect(new Set(toast.loading.mock.calls.map(([, { id }]) => id)).size).toBe(1)
    expect(toast.dismiss).toHaveBeenCalledExactlyOnceWith(toast.loading.mock.calls[0][1].id)
  })

  it('say nothing where one request takes them', async () => {
    await sendTelling(ids, 5, takeAll)
    expect(toast.loading).not.toHaveBeenCalled()
  })

  it('take their message away when the line breaks', async () => {
    const broken = sendTelling(ids, 2, () => Promise.reject(new Error('away')))
    await expect(broken).rejects.toThrow('away')
    expect(toast.dismiss).toHaveBeenCalledOnce()
  })
})

describe('what became of many', () => {
  const count = (n: number) => `${n} approved.`

  it('is one message: what was done, and under it what was not', () => {
    tellBulk(count, { changed: [1, 2], refused: [{ id: 3, code: 'OAK-0003', reason: 'It has findings.' }] })
    expect(toast.warning).toHaveBeenCalledExactlyOnceWith(
      '2 approved.',
      expect.objectContaining({ description: '1 not done. OAK-0003: It has findings.' }),
    )
    expect(toast.success).not.toHaveBeenCalled()
  })

  it('is a warning alone where nothing was done, and nothing where there was nothing to do', () => {
    tellBulk(count, { changed: [], refused: [{ id: 3, code: 'OAK-0003', reason: 'It has findings.' }] })
    expect(toast.warning).toHaveBeenCalledExactlyOnceWith('1 not done. OAK-0003: It has findings.')
    tellBulk(count, { changed: [], refused: [] })
    expect(toast.success).not.toHaveBeenCalled()
  })
})
