import { FileError } from '#core/findings/failure'
import { ImportError } from './client'

export interface Output {
  print: (text: string) => void
  report: (line: string) => void
}

/** Runs a command; a failure that has a sentence for the person is said, and its status is 1. */
export async function sayFailures({ report }: Output, run: () => Promise<number>): Promise<number> {
  try {
    return await run()
  } catch (error) {
    if (!(error instanceof ImportError || error instanceof FileError)) throw error
    report(`muscovite: ${error.message}`)
    return 1
  }
}
