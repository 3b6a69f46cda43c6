import { afterAll, vi } from 'vitest'

// Files of tests share a process: what one puts in the place of a global is gone before the next.
afterAll(() => {
  vi.unstubAllGlobals()
  vi.useRealTimers()
})
