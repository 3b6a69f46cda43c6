import type { FormEvent, ReactNode } from 'react'
import { Button } from '../controls/Button'
import { Modal } from './Modal'

interface Props {
  title: string
  /** What the button says that does it. */
  action: string
  disabled: boolean
  onClose: () => void
  onSubmit: (event: FormEvent) => void
  children: ReactNode
}

/** A few fields over the page, and one thing to do with them. */
export const FormDialog = ({ title, action, disabled, onClose, onSubmit, children }: Props) => (
  <Modal title={title} onClose={onClose}>
    <form onSubmit={onSubmit} className="flex flex-col gap-4">
      {children}
      <div className="flex justify-end gap-2">
        <Button variant="bare" onClick={onClose}>
          Leave it
        </Button>
        <Button type="submit" variant="next" disabled={disabled}>
          {action}
        </Button>
      </div>
    </form>
  </Modal>
)
