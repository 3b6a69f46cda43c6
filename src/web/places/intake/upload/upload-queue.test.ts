import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { UploadProgress } from '../../../state/uploads.slice'
import { type DroppedFile, sendFiles } from './upload-queue'

/** Uploads that do only what the test tells them. */
const { begun, UploadDouble } = vi.hoisted(() => {
  interface Options {
    metadata: { path: string }
    onProgress: (bytes: number) => void
    onSuccess: () => void
    onError: (error: unknown) => void
  }
  const begun: InstanceType<typeof UploadDouble>[] = []
  class UploadDouble {
    starts = 0
    aborts = 0
    constructor(
      readonly file: File,
      readonly options: Options,
    ) {
      begun.push(this)
    }
    findPreviousUploads = async () => []
    start = () => {
      this.starts++
    }
    abort = () => {
      this.aborts++
    }
  }
  return { begun, UploadDouble }
})
vi.mock('tus-js-client', () => ({ Upload: UploadDouble }))

const hashes = new Map<string, string>()
vi.mock('./hash-file', () => ({ hashFile: async (file: File) => hashes.get(file.name) ?? null }))

const LARGE = 'x'.repeat(70_000)
const drop = (name: string, content = 'small'): DroppedFile => ({ path: `Spring/${name}`, file: new File([content], name) })
const settled = () => new Promise(resolve => setTimeout(resolve, 10))
const pathsOf = () => begun.map(u => u.options.metadata.path)

function start(files: DroppedFile[], claimed: (path: string) => boolean = () => false) {
  const told: UploadProgress[] = []
  const done = vi.fn()
  const dispatch = vi.fn(action => void told.push(action.payload.progress))
  vi.stubGlobal('fetch', async (_path: string, { body }: { body: string }) => {
    const [{ path }] = JSON.parse(body).files
    return Response.json({ taken: claimed(path) ? [path] : [] })
  })
  const upload = sendFiles(7, files, dispatch as never, done)
  return { upload, told, done, last: () => told.at(-1)! }
}

beforeEach(() => {
  begun.length = 0
  hashes.clear()
})

describe('sending files', () => {
  it('has three under way at a time, and says when all have arrived', async () => {
    const { done, last } = start(['a', 'b', 'c', 'd', 'e'].map(n => drop(n)))
    await settled()
    expect(pathsOf()).toEqual(['Spring/a', 'Spring/b', 'Spring/c'])
    begun[1].options.onSuccess()
    await settled()
    expect(pathsOf()).toEqual(['Spring/a', 'Spring/b', 'Spring/c', 'Spring/d'])
    for (const upload of [begun[0], begun[2], begun[3]]) upload.options.onSuccess()
    await settled()
    expect(done).not.toHaveBeenCalled()
    begun[4].options.onSuccess()
    expect(done).toHaveBeenCalledExactlyOnceWith(new Set())
    expect(last()).toMatchObject({ state: 'done', doneFiles: 5, sentBytes: 25, bytes: 25 })
  })

  it('goes on past a refused file, and says why it was refused', async () => {
    const { done, last } = start([drop('a'), drop('b')])
    await settled()
    begun[0].options.onError({ originalResponse: { getBody: () => '{"message":"The batch is closed."}' } })
    begun[1].options.onError(new Error('broken'))
    expect(done).toHaveBeenCalledExactlyOnceWith(new Set(['Spring/a', 'Spring/b']))
    expect(last().refused).toEqual([
      { path: 'Spring/a', reason: 'The batch is closed.' },
      { path: 'Spring/b', reason: 'It could not be sent; drop it again to go on where it stopped.' },
    ])
  })

  it('does not send what the library has already; small files are not asked about', async () => {
    hashes.set('known', 'f'.repeat(64))
    hashes.set('new', 'e'.repeat(64))
    const { last } = start([drop('known', LARGE), drop('new', LARGE), drop('small')], path => path.endsWith('known'))
    await settled()
    expect(pathsOf()).toEqual(['Spring/small', 'Spring/new'])
    for (const upload of begun) upload.options.onSuccess()
    expect(last()).toMatchObject({ state: 'done', knownFiles: 1, doneFiles: 3, sentBytes: 2 * LARGE.length + 5 })
  })

  it('rests and goes on: nothing new begins meanwhile, what was asked about waits', async () => {
    hashes.set('big', 'e'.repeat(64))
    const { upload, last } = start(['a', 'b'].map(n => drop(n)).concat(drop('big', LARGE), drop('d')))
    upload.pause()
    await settled()
    expect(last().state).toBe('paused')
    expect(pathsOf()).toEqual([])
    upload.resume()
    await settled()
    expect(pathsOf()).toHaveLength(3)
    upload.pause()
    expect(begun.map(u => u.aborts)).toEqual([1, 1, 1])
    begun[0].options.onSuccess()
    await settled()
    expect(pathsOf()).toHaveLength(3)
    upload.resume()
    await settled()
    expect(begun[1].starts).toBe(2)
    expect(pathsOf().sort()).toEqual(['Spring/a', 'Spring/b', 'Spring/big', 'Spring/d'])
  })
})
