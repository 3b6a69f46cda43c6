import { Toaster } from 'sonner'
import { useAppSelector } from '../state/hooks'
import { MESSAGE_TIMES } from '../state/messages.slice'

/** Where messages appear; each stands as long as the person wants them to. */
export function Messages() {
  const time = useAppSelector(s => s.messages.time)
  return (
    <Toaster
      duration={MESSAGE_TIMES[time]}
      closeButton={time === 'closed'}
      position="bottom-right"
      offset={{ bottom: 'var(--messages-bottom, 1.5rem)', right: '1.5rem' }}
      toastOptions={{ className: 'muscovite-toast', closeButtonAriaLabel: 'Close the message' }}
    />
  )
}
