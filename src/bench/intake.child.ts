import { readFileSync } from 'node:fs'
import sharp from 'sharp'
import { collectSources } from '#files/reading/collect-sources'
import { recognizeDelivery } from '#files/recognition/recognize-delivery'
import { ComputePool } from '../server/platform/compute/compute-pool'

/** A process of its own that takes in a delivery, or only decodes its pictures, on some threads; tells how long and how large it became. */
const [how, root, threads] = process.argv.slice(2)
const started = performance.now()
const { files } = await collectSources([root])
let count = 0
if (how === 'intake') {
  const { items } = await recognizeDelivery(files)
  const pool = new ComputePool(Number(threads), new URL('./compute.worker.js', import.meta.url))
  await Promise.all(items.map(source => pool.run('inspect', { source, category: source.category })))
  count = items.length
  await pool.close()
} else {
  const pictures = files.filter(f => f.path.endsWith('.png'))
  const work = pictures.values()
  await Promise.all(
    Array.from({ length: Number(threads) }, async () => {
      for (const picture of work) await sharp(picture.diskPath).raw().toBuffer()
    }),
  )
  count = pictures.length
}
const seconds = (performance.now() - started) / 1000
const peak = /VmHWM:\s*(\d+) kB/.exec(readFileSync('/proc/self/status', 'utf8'))
process.send!({ seconds, mb: Number(peak?.[1]) / 1024, count })
process.disconnect()
