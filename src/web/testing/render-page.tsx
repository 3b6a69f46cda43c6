import { type RenderResult, render } from '@testing-library/react'
import userEvent, { type UserEvent } from '@testing-library/user-event'
import { type ReactElement, useEffect } from 'react'
import { Provider } from 'react-redux'
import { MemoryRouter, useLocation } from 'react-router'
import { vi } from 'vitest'
import { createStore } from '../state/store'

/** What jsdom lacks of a browser and the controls ask for. */
export function completeBrowser(): void {
  vi.stubGlobal(
    'ResizeObserver',
    class {
      observe() {}
      unobserve() {}
      disconnect() {}
    },
  )
  Element.prototype.getAnimations ??= () => []
  Element.prototype.scrollIntoView ??= () => {}
  Element.prototype.scrollTo ??= () => {}
  // Everything has a size, so that long lists show what is in sight.
  Object.defineProperties(HTMLElement.prototype, {
    offsetHeight: { configurable: true, get: () => 90 },
    offsetWidth: { configurable: true, get: () => 1200 },
    clientHeight: { configurable: true, get: () => 600 },
    clientWidth: { configurable: true, get: () => 1200 },
    innerText: {
      configurable: true,
      get(this: HTMLElement) {
        return this.textContent
      },
    },
  })
}

export interface Asked {
  method: string
  path: string
  query: URLSearchParams
  body: unknown
}
/** Answers of a made-up server, by method and path; a function is asked with what was sent. */
export type Answers = Record<string, unknown | ((asked: Asked) => unknown)>

export interface Rendered extends RenderResult {
  user: UserEvent
  /** What was asked of the server, in order. */
  asked: Asked[]
  /** Where the page stands. */
  address: () => string
  store: ReturnType<typeof createStore>
}

/** A page or a part of one on a store of its own, at an address, before a made-up server. */
export function renderPage(page: ReactElement, { at = '/', answers = {} }: { at?: string; answers?: Answers } = {}): Rendered {
  const asked: Asked[] = []
  vi.stubGlobal('fetch', async (input: Request) => {
    const url = new URL(input.url, 'http://muscovite.test')
    const text = input.method === 'GET' ? '' : await input.text()
    const request: Asked = {
      method: input.method,
      path: url.pathname,
      query: url.searchParams,
      body: text ? JSON.parse(text) : undefined,
    }
    asked.push(request)
    const answer = answers[`${request.method} ${request.path}`]
    if (answer === undefined)
      return Response.json({ code: 'notFound', message: `No answer for ${request.path}.` }, { status: 404 })
    const given = typeof answer === 'function' ? answer(request) : answer
    return given instanceof Response ? given : Response.json(given)
  })
  // jsdom has no base that a relative address could be read against.
  vi.stubGlobal(
    'Request',
    class extends Request {
      constructor(input: string | URL | Request, init?: RequestInit) {
        super(typeof input === 'string' ? new URL(input, 'http://muscovite.test') : input, init)
      }
    },
  )
  const shown = { address: at }
  const store = createStore()
  const result = render(
    <Provider store={store}>
      <MemoryRouter initialEntries={[at]}>
        {page}
        <Where shown={shown} />
      </MemoryRouter>
    </Provider>,
  )
  return { ...result, user: userEvent.setup(), asked, address: () => shown.address, store }
}

function Where({ shown }: { shown: { address: string } }) {
  const { pathname, search } = useLocation()
  useEffect(() => {
    shown.address = pathname + search
  }, [shown, pathname, search])
  return null
}
