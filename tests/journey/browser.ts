import { type Browser, type BrowserContext, chromium, type Page } from '@playwright/test'
import { findChromium } from '../../scripts/setup.mjs'

export const openBrowser = (): Promise<Browser> =>
  chromium.launch({
    executablePath: findChromium() ?? undefined,
    args: [
      '--no-sandbox',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
      '--enable-unsafe-swiftshader',
    ],
  })

/**
 * Somebody's own browser, with one page open. Every answer is held against the contract; one that is not as it says is an error on the
 * console, and so among the trouble.
 */
export async function openPage(browser: Browser, trouble: string[]): Promise<{ context: BrowserContext; page: Page }> {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true })
  await context.addInitScript(() => localStorage.setItem('muscovite.check answers', 'true'))
  const page = await context.newPage()
  page.setDefaultTimeout(90_000)
  page.on('pageerror', error => trouble.push(error.message))
  page.on('console', message => {
    // Where it happened says more than that it did.
    if (message.type() === 'error') trouble.push(`${message.text()} ${message.location().url}`)
  })
  return { context, page }
}
