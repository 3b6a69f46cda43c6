import { collectedSchema } from '#shared/contracts/upkeep.contract'
import { formatBytes } from '#shared/units'
import { type Credentials, ImportError, signIn } from './client'
import type { Output } from './output'

export interface CollectWish extends Credentials {
  days: number
  dryRun: boolean
}

/** Has a running Muscovite take away exports past their time and bytes that nothing names; the exit status. */
export async function runCollect(
  { days, dryRun, ...credentials }: CollectWish,
  json: boolean,
  { print, report }: Output,
): Promise<number> {
  try {
    const client = await signIn(credentials)
    const done = collectedSchema.parse(await client.ask('POST', '/api/collect', { days, dryRun }))
    if (json) print(`${JSON.stringify(done)}\n`)
    else {
      const verb = dryRun ? 'would be taken away' : 'were taken away'
      print(
        `${done.exports} exports and ${done.files} files, ${formatBytes(done.bytes)}, ${verb}: older than ${days} days and named by nothing.\n`,
      )
    }
    return 0
  } catch (error) {
    if (!(error instanceof ImportError)) throw error
    report(`muscovite: ${error.message}`)
    return 1
  }
}
