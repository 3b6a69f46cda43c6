import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react'
import { type ReactNode, useEffect, useRef } from 'react'

const WIDTHS = {
  small: 'max-w-sm',
  medium: 'max-w-md',
  large: 'max-w-lg',
  wide: 'max-w-xl',
  frame: 'max-w-4xl',
  whole: 'max-w-[96vw]',
}
/** A menu that closes takes the focus back to its button, after the sheet that one of its entries has opened is there. */
const MENU_CLOSED_MS = 60

interface Props {
  title: string
  width?: keyof typeof WIDTHS
  onClose: () => void
  children: ReactNode
}

/** A sheet over the page; the keyboard is in it from the beginning, wherever it was opened from. */
export function Modal({ title, width = 'small', onClose, children }: Props) {
  const panel = useRef<HTMLDivElement>(null)
  useEffect(() => {
    const timer = setTimeout(() => {
      const { current } = panel
      const active = document.activeElement
      if (!current || (active !== current && current.contains(active))) return
      // A list that was opened meanwhile stands outside of the panel, and keeps the keyboard.
      if (active?.closest('[role=listbox]')) return
      const first = current.querySelector<HTMLElement>('input, select, textarea, [aria-haspopup]')
      ;(first ?? current).focus()
    }, MENU_CLOSED_MS)
    return () => clearTimeout(timer)
  }, [])
  return (
    <Dialog open onClose={onClose} className="relative z-50">
      <div className="fixed inset-0 bg-black/40" aria-hidden />
      <div className="fixed inset-0 flex items-center justify-center p-8">
        <DialogPanel
          ref={panel}
          // Where it is longer than the screen it is read by the keys.
          tabIndex={0}
          className={`max-h-full w-full overflow-auto rounded-sm bg-sheet p-6 shadow-xl outline-none ${WIDTHS[width]}`}
        >
          <DialogTitle className="mb-4 text-lg font-medium">{title}</DialogTitle>
          {children}
        </DialogPanel>
      </div>
    </Dialog>
  )
}
