import { createHash, randomBytes } from 'node:crypto'
import { appendFile, mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { ROOT } from '../../../../tests/test-database'
import { RunningHashes } from './running-hashes'

let root: string
let hashes: RunningHashes
beforeAll(async () => {
  root = await mkdtemp(join(tmpdir(), 'muscovite-hashes-'))
  hashes = new RunningHashes(new URL(`file://${join(ROOT, 'dist/node/running-hashes.worker.js')}`))
})
afterAll(async () => {
  await hashes.close()
  await rm(root, { recursive: true, force: true })
})

const sha256 = (bytes: Buffer) => createHash('sha256').update(bytes).digest('hex')

it('has the hash of a file that grew while it was hashed, of one that it never heard of, and of an empty one', async () => {
  const [first, second] = [randomBytes(3_000_000), randomBytes(1234)]
  const path = join(root, 'grows')
  await writeFile(path, first)
  hashes.advance('grows', path, first.length)
  await appendFile(path, second)
  expect(await hashes.digest('grows', path, first.length + second.length)).toBe(sha256(Buffer.concat([first, second])))
  expect(await hashes.digest('other', path, first.length + second.length)).toBe(sha256(Buffer.concat([first, second])))
  await writeFile(join(root, 'empty'), '')
  expect(await hashes.digest('empty', join(root, 'empty'), 0)).toBe(sha256(Buffer.alloc(0)))
})

it('says when a file is not there or shorter than was said, and works on', async () => {
  hashes.advance('gone', join(root, 'gone'), 10)
  await expect(hashes.digest('gone', join(root, 'gone'), 10)).rejects.toThrow(/could not be hashed/)
  const path = join(root, 'short')
  await writeFile(path, 'abc')
  await expect(hashes.digest('short', path, 4)).rejects.toThrow(/shorter/)
  expect(await hashes.digest('short', path, 3)).toBe(sha256(Buffer.from('abc')))
})
