import { useState } from 'react'
import { TextField } from '../controls/Field'
import { FormDialog } from './FormDialog'

interface Props {
  title: string
  hint: string
  /** Resolves when it is kept, or why not was told. */
  onKeep: (name: string) => Promise<void>
  onClose: () => void
}

/** Asks under which name something is kept. */
export function NameDialog({ title, hint, onKeep, onClose }: Props) {
  const [name, setName] = useState('')
  const given = name.trim()
  return (
    <FormDialog
      title={title}
      action="Keep it"
      disabled={given === ''}
      onClose={onClose}
      onSubmit={event => {
        event.preventDefault()
        if (given !== '') void onKeep(given)
      }}
    >
      <TextField label="Name" hint={hint} value={name} onChange={event => setName(event.target.value)} />
    </FormDialog>
  )
}
