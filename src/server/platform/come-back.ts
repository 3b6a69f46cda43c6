import { setTimeout } from 'node:timers/promises'

const FIRST_DELAY_MS = 200
const LONGEST_DELAY_MS = 5000

/** Takes a lost connection up again, however long the other side is away, ever more patiently; true once it is there, false once it is no longer wanted. */
export async function comeBack(
  connect: () => Promise<void>,
  isWanted: () => boolean,
  onError: (error: Error) => void = () => {},
): Promise<boolean> {
  for (let delay = FIRST_DELAY_MS; isWanted(); delay = Math.min(delay * 2, LONGEST_DELAY_MS)) {
    await setTimeout(delay)
    if (!isWanted()) return false
    try {
      await connect()
      return true
    } catch (error) {
      onError(error as Error)
    }
  }
  return false
}
