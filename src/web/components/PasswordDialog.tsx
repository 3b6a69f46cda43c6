import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react'
import { toast } from 'sonner'
import { changePasswordSchema } from '#shared/contracts/people.contract'
import { toProblem, useChangePasswordMutation } from '../state/api'
import { Button } from './controls/Button'
import { TextField } from './controls/Field'
import { useZodForm } from './controls/use-zod-form'

/** One's own password, chosen anew. */
export function PasswordDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} onClose={onClose} className="relative z-50">
      <div className="fixed inset-0 bg-black/40" aria-hidden />
      <div className="fixed inset-0 flex items-center justify-center p-8">
        <DialogPanel className="w-full max-w-sm rounded-sm bg-sheet p-6 shadow-xl">
          <DialogTitle className="mb-4 text-section">Another password</DialogTitle>
          <PasswordForm onDone={onClose} />
        </DialogPanel>
      </div>
    </Dialog>
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
