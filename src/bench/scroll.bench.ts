import { chromium } from '@playwright/test'
import { type Benchmark, round } from './benchmark'
import { LEAD } from './installation'
import { onFullLibrary } from './wall.bench'

const CHIPS_WITHIN_MS = 1000
/** A task longer than this is felt. */
const LONGEST_TASK_MS = 50
/** Through the whole length in so many steps, each as long as a frame or two. */
const STEPS = 400
const STEP_MS = 30

interface Scrolled {
  longTasks: number[]
  heapMegabytes: number
}

/** The wall over a full library in a browser: how soon the first chips are there, and whether anything is felt on the way down. */
export const scrollBenchmark: Benchmark = {
  name: 'wall-scroll-50k',
  run: () =>
    onFullLibrary(async ({ base }) => {
      const browser = await chromium.launch({ executablePath: process.env.MUSCOVITE_CHROMIUM, args: ['--no-sandbox'] })
      try {
        const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
        await page.goto(`${base}/`)
        await page.getByLabel('E-mail address').fill(LEAD.email)
        await page.getByLabel('Password').fill(LEAD.password)
        await page.getByRole('button', { name: 'Sign in', exact: true }).click()
        await page.locator('[data-chip]').first().waitFor()
        const opened: number[] = []
        for (let n = 0; n < 5; n++) {
          const started = performance.now()
          await page.goto(`${base}/wall`)
          await page.locator('[data-chip]').first().waitFor()
          opened.push(performance.now() - started)
        }
        const open = Math.min(...opened)
        const { longTasks, heapMegabytes } = await page.evaluate<Scrolled, { steps: number; pauseMs: number }>(
          async ({ steps, pauseMs }) => {
            const tasks: number[] = []
            new PerformanceObserver(list => tasks.push(...list.getEntries().map(e => e.duration))).observe({
              entryTypes: ['longtask'],
            })
            const scroller = document.querySelector('[data-chip]')!.closest('.overflow-auto')!
            for (let step = 1; step <= steps; step++) {
              scroller.scrollTop = (scroller.scrollHeight * step) / steps
              await new Promise(resolve => setTimeout(resolve, pauseMs))
            }
            const { usedJSHeapSize = 0 } = (performance as unknown as { memory?: { usedJSHeapSize: number } }).memory ?? {}
            return { longTasks: tasks, heapMegabytes: usedJSHeapSize / 2 ** 20 }
          },
          { steps: STEPS, pauseMs: STEP_MS },
        )
        const longest = Math.max(0, ...longTasks)
        return [
          {
            name: 'wall-scroll-50k',
            ratio: round(CHIPS_WITHIN_MS / open),
            ours: round(open),
            baseline: CHIPS_WITHIN_MS,
            unit: 'ms',
            note: `first chips after the page is opened, the best of ${opened.length}`,
          },
          {
            name: 'wall-scroll-50k',
            ratio: round(LONGEST_TASK_MS / Math.max(1, longest)),
            ours: round(longest),
            baseline: LONGEST_TASK_MS,
            unit: 'ms',
            note: `longest task from top to bottom in ${STEPS} steps, ${longTasks.length} over ${LONGEST_TASK_MS} ms; heap ${round(heapMegabytes)} MB at the end`,
          },
        ]
      } finally {
        await browser.close()
      }
    }),
}
