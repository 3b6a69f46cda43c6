import { useEffect, useMemo, useRef, useState } from 'react'
import { toast } from 'sonner'
import type { Touched } from '#core/mock-up/scene/change'
import type { Scene } from '#core/mock-up/scene/scene'
import type { MockUp } from '#shared/contracts/mock-ups.contract'
import { api, toProblem } from '../../../state/api'
import { useAppDispatch, useAppSelector } from '../../../state/hooks'
import { type Answer, MockUpSession, type MockUpView } from './mock-up-session'

const makePage = (): string => Math.random().toString(36).slice(2, 14)

/** A mock-up kept in step with the server and with whoever else has it open. */
export function useMockUp(mockUp: MockUp): { view: MockUpView; session: MockUpSession } {
  const dispatch = useAppDispatch()
  const { id } = mockUp
  const said = useAppSelector(s => s.live.mockUps[id])
  const isConnected = useAppSelector(s => s.live.connected)
  const first = useRef(mockUp)
  const setView = useRef<(view: MockUpView) => void>(() => {})
  const session = useMemo(() => {
    const page = makePage()
    const read = async (since: number): Promise<Answer> =>
      toAnswer(await dispatch(api.endpoints.listMockUpChanges.initiate({ id, since }, { forceRefetch: true, subscribe: false })))
    return new MockUpSession(
      first.current.scene,
      first.current.revision,
      page,
      {
        send: async (base, change) =>
          toAnswer(await dispatch(api.endpoints.changeMockUp.initiate({ id, page, base, change } as never))),
        read,
        reload: async () => {
          const { data } = await dispatch(api.endpoints.getMockUp.initiate({ id }, { forceRefetch: true, subscribe: false }))
          return data ? { revision: data.revision, scene: data.scene } : null
        },
      },
      {
        onView: view => setView.current(view),
        onOvertaken: (person, what) => toast(`${person} changed ${nameOf(what, first.current.scene)} after you; theirs stands.`),
        onRefused: message => toast.error(`${message} The mock-up is as it was saved last.`),
      },
    )
  }, [id, dispatch])
  const [view, set] = useState(session.view)
  setView.current = set
  first.current = { ...first.current, scene: view.scene }
  useEffect(() => {
    if (said !== undefined) void session.catchUp(said)
  }, [said, session])
  // What was said while nobody listened was missed.
  useEffect(() => {
    if (isConnected) void session.catchUp(Number.MAX_SAFE_INTEGER)
  }, [isConnected, session])
  useEffect(() => {
    const flush = () => void session.flush()
    window.addEventListener('pagehide', flush)
    return () => {
      window.removeEventListener('pagehide', flush)
      void session.flush()
    }
  }, [session])
  return { view, session }
}

function toAnswer(result: { data?: { revision: number; changes: unknown[] | null }; error?: unknown }): Answer {
  if (result.data) return { kind: 'done', ...result.data } as Answer
  const status = (result.error as { status?: unknown } | undefined)?.status
  return typeof status === 'number' && status < 500
    ? { kind: 'refused', message: toProblem(result.error)?.message ?? 'It was not taken.' }
    : { kind: 'away' }
}

function nameOf(what: readonly Touched[], scene: Scene): string {
  const [{ table, id }] = what
  if (table === 'stage') return 'the stage'
  const thing = scene[table][id] as { name?: string } | undefined
  const name = thing?.name ?? 'something'
  return what.length > 1 ? `${name} and more` : name
}
