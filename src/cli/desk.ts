import { listDesk } from '#files/exports/list-desk'
import { reportedDeskSchema } from '#shared/contracts/personal.contract'
import { type Credentials, signIn } from './client'
import { type Output, sayFailures } from './output'

export interface DeskCall extends Credentials {
  folder: string
  /** What the machine is called. */
  name: string
}

/**
 * Says what of the library lies below a folder, and tells the server, where the wall narrows by it from then on; the exit status: 0 where
 * everything that was found is whole.
 */
export function runDesk({ folder, name, ...credentials }: DeskCall, json: boolean, output: Output): Promise<number> {
  return sayFailures(output, async () => {
    const client = await signIn(credentials)
    const desk = await listDesk(folder, path => output.report(`Comparing ${path}`))
    const told = await client.ask('POST', '/api/personal/desks', { name, isAll: true, items: desk.items })
    const { known, unknown } = reportedDeskSchema.parse(told)
    const damaged = desk.items.filter(i => !i.isWhole)
    if (json)
      output.print(`${JSON.stringify({ desk: name, known, unknown, damaged: damaged.map(i => i.code), unread: desk.unread })}\n`)
    else {
      output.print(`${known} items of the library lie on ${name}, in ${desk.handOvers.length} hand-overs.\n`)
      for (const { code, version } of damaged) output.print(`damaged  ${code}  version ${version}\n`)
      for (const code of unknown) output.print(`unknown  ${code}\n`)
      for (const path of desk.unread) output.print(`not read  ${path}\n`)
      if (damaged.length > 0) output.print('muscovite fetch FOLDER brings what is missing or altered.\n')
    }
    return damaged.length > 0 ? 1 : 0
  })
}
