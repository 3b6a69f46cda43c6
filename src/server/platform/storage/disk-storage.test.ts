import { mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { DiskStorage, openStorage } from './disk-storage'

let root: string
beforeAll(async () => {
  root = await mkdtemp(join(tmpdir(), 'muscovite-storage-'))
})
afterAll(() => rm(root, { recursive: true, force: true }))

const HELLO = '2cf24dba5fb0a30e26e83b2ac5b9e29e1b161e5c1fa7425e73043362938b9824'

describe('DiskStorage', () => {
  it('keeps bytes once, under their hash, however they come', async () => {
    const storage = new DiskStorage(join(root, 'a'))
    await storage.put(HELLO, new TextEncoder().encode('hello'))
    const path = join(root, 'upload')
    await writeFile(path, 'hello')
    await storage.place(HELLO, path)
    await expect(readFile(path)).rejects.toMatchObject({ code: 'ENOENT' })
    expect(await readFile(await storage.localPath(HELLO), 'utf8')).toBe('hello')
    expect(await readdir(join(root, 'a', '2c'))).toEqual([HELLO])
  })

  it('takes many writers of the same bytes at once, lists what it has, and forgets it', async () => {
    const storage = new DiskStorage(join(root, 'b'))
    const bytes = new Uint8Array(200_000).fill(7)
    await Promise.all(Array.from({ length: 12 }, () => storage.put(HELLO, bytes)))
    const list = async () => {
      const all: { hash: string; size: number }[] = []
      for await (const { hash, size } of storage.list()) all.push({ hash, size })
      return all
    }
    expect(await list()).toEqual([{ hash: HELLO, size: 200_000 }])
    await storage.remove(HELLO)
    await storage.remove(HELLO)
    expect(await list()).toEqual([])
  })

  it('is asked for hashes only, so that no name leads out of it', async () => {
    const storage = new DiskStorage(join(root, 'c'))
    await expect(storage.localPath('../../etc/passwd')).rejects.toThrow(RangeError)
    await expect(storage.localPath(HELLO.toUpperCase())).rejects.toThrow(RangeError)
  })

  it('says when it cannot be written', async () => {
    await new DiskStorage(join(root, 'd')).check()
    await expect(new DiskStorage('/dev/null/nowhere').check()).rejects.toThrow(/cannot be written/)
    expect(() => openStorage('s3://bucket')).toThrow(/s3 is not supported/)
    expect(openStorage(`file://${root}/e`)).toBeInstanceOf(DiskStorage)
  })
})
