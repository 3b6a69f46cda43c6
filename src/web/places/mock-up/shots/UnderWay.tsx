import type { MockUpPicture } from '#shared/contracts/mock-ups.contract'
import { Modal } from '../../../components/dialogs/Modal'
import { Progress } from '../../../components/Notice'
import { captionOf, sayTime } from './caption'

const STATE_WORDS: Record<MockUpPicture['state'], string> = {
  waiting: 'in line',
  rendering: 'rendering',
  ready: '',
  failed: 'failed',
  cancelled: 'stopped',
}

/** A picture that is not ended: as far as it has come, and how far that is. */
export function UnderWay({ picture: p, onOpen }: { picture: MockUpPicture; onOpen: () => void }) {
  if (!p.interimUrl)
    return (
      <div className="flex aspect-[16/10] w-full flex-col items-center justify-center gap-2 bg-mount px-8 text-center text-xs text-quiet">
        <HowFar picture={p} />
      </div>
    )
  return (
    <>
      <button type="button" onClick={onOpen} aria-label={`Look at ${captionOf(p)} so far`} className="block w-full">
        <img src={p.interimUrl} alt={`${captionOf(p)}, so far`} className="w-full bg-mount" />
      </button>
      <div className="mt-1.5 grid gap-1 text-xs text-quiet">
        <HowFar picture={p} />
      </div>
    </>
  )
}

/** The same close up, as it goes on. */
export function UnderWayView({ picture: p, onClose }: { picture: MockUpPicture; onClose: () => void }) {
  return (
    <Modal title={captionOf(p)} width="whole" onClose={onClose}>
      {p.interimUrl && (
        <img src={p.interimUrl} alt={`${captionOf(p)}, so far`} className="mx-auto h-[calc(100vh-13rem)] w-full object-contain" />
      )}
      <div className="mx-auto mt-3 grid max-w-sm gap-1 text-center text-xs text-quiet">
        <HowFar picture={p} />
      </div>
    </Modal>
  )
}

function HowFar({ picture: p }: { picture: MockUpPicture }) {
  return (
    <>
      <span className="flex justify-center gap-4">
        {STATE_WORDS[p.state]}
        {p.state === 'rendering' && (p.error !== null || p.secondsLeft !== null) && (
          <span className="figures">
            {p.error !== null && `error ${(p.error * 100).toFixed(1)} %`}
            {p.secondsLeft !== null && `  about ${sayTime(p.secondsLeft)} left`}
          </span>
        )}
      </span>
      {p.state === 'rendering' && <Progress share={p.share} label={`Rendering ${captionOf(p)}`} />}
    </>
  )
}
