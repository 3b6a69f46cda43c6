import { Toaster } from 'sonner'
import { useAppSelector } from '../state/hooks'
import { MESSAGE_TIMES } from '../state/messages.slice'

/** What lies along the window's lower edge stays within reach. */
const ABOVE_THE_TRAY = '5.25rem'

/** Where messages appear; each stands as long as the person wants them to. */
export function Messages() {
  const time = useAppSelector(s => s.messages.time)
  return (
    <Toaster
      duration={MESSAGE_TIMES[time]}
      closeButton={time === 'closed'}
      position="bottom-right"
      offset={{ bottom: ABOVE_THE_TRAY, right: '1.5rem' }}
      toastOptions={{ className: 'muscovite-toast', closeButtonAriaLabel: 'Close the message' }}
    />
  )
}
