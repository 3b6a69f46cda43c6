import { toast } from 'sonner'
import { changePasswordSchema } from '#shared/contracts/people.contract'
import { toProblem, useChangePasswordMutation } from '../../state/api'
import { Button } from '../controls/Button'
import { TextField } from '../controls/Field'
import { useZodForm } from '../controls/use-zod-form'
import { Modal } from './Modal'

/** One's own password, chosen anew. */
export function PasswordDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  if (!open) return null
  return (
    <Modal title="Another password" onClose={onClose}>
      <PasswordForm onDone={onClose} />
    </Modal>
  )
}

function PasswordForm({ onDone }: { onDone: () => void }) {
  const [change, { isLoading, error }] = useChangePasswordMutation()
  const { register, handleSubmit, formState } = useZodForm(changePasswordSchema, { current: '', next: '' })
  const problem = error ? toProblem(error) : null
  const submit = handleSubmit(async given => {
    const result = await change(given)
    if (result.error) return
    toast('Your password is another one now; other browsers are signed out.')
    onDone()
  })
  return (
    <form onSubmit={submit} noValidate className="flex flex-col gap-3">
      <TextField
        label="Your password as it is"
        type="password"
        autoComplete="current-password"
        error={formState.errors.current?.message ?? problem?.fields?.current}
        {...register('current')}
      />
      <TextField
        label="The new one"
        type="password"
        autoComplete="new-password"
        hint="At least 10 characters"
        error={formState.errors.next?.message}
        {...register('next')}
      />
      {problem && !problem.fields?.current && (
        <p role="alert" className="font-medium">
          {problem.message}
        </p>
      )}
      <div className="flex gap-2">
        <Button type="submit" variant="next" disabled={isLoading}>
          Change it
        </Button>
        <Button variant="bare" onClick={onDone}>
          Leave it
        </Button>
      </div>
    </form>
  )
}
