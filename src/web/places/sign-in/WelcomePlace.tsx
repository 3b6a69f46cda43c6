import { type ChangeEvent, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import {
  choosePasswordSchema,
  type FoundStudio,
  foundStudioSchema,
  type OpenedLink,
  treeFileSchema,
} from '#shared/contracts/people.contract'
import type { Session } from '#shared/contracts/session.contract'
import { Button } from '../../components/controls/Button'
import { ChoiceField } from '../../components/controls/Choice'
import { TextField } from '../../components/controls/Field'
import { useZodForm } from '../../components/controls/use-zod-form'
import { api, toProblem, useFollowLinkMutation, useFoundStudioMutation, useOpenLinkQuery } from '../../state/api'
import { useAppDispatch } from '../../state/hooks'
import { Card } from './Card'

/** Where a link leads that lets somebody in: to found the studio, to join it, or to choose a new password. */
export function WelcomePlace() {
  const { token = '' } = useParams()
  const [isIn, setIn] = useState(false)
  // Once followed it is used up, and not asked for again.
  const { data: link, error } = useOpenLinkQuery({ token }, { skip: isIn })
  const dispatch = useAppDispatch()
  const navigate = useNavigate()
  const enter = (session: Session) => {
    setIn(true)
    dispatch(api.util.resetApiState())
    dispatch(api.util.upsertQueryData('getSession', undefined, session))
    navigate(link?.purpose === 'found' ? '/intake' : '/wall', { replace: true })
  }
  if (error)
    return (
      <Card subtitle={toProblem(error).message}>
        <Link to="/wall" className="underline">
          To the sign-in page
        </Link>
      </Card>
    )
  if (!link) return null
  return link.purpose === 'found' ? (
    <FoundForm token={token} onEntered={enter} />
  ) : (
    <PasswordForm token={token} link={link} onEntered={enter} />
  )
}

interface FormProps {
  token: string
  onEntered: (session: Session) => void
}

function PasswordForm({ token, link, onEntered }: FormProps & { link: OpenedLink }) {
  const [follow, { isLoading, error }] = useFollowLinkMutation()
  const { register, handleSubmit, formState } = useZodForm(choosePasswordSchema, { password: '' })
  const submit = handleSubmit(async ({ password }) => {
    const { data } = await follow({ token, password })
    if (data) onEntered(data)
  })
  return (
    <Card
      title={link.purpose === 'join' ? `Welcome, ${link.name}` : 'A new password'}
      subtitle={
        link.purpose === 'join'
          ? `You are invited to the samples room of ${link.studio ?? 'the studio'}. Choose a password to come in.`
          : `For ${link.name}. Browsers that are signed in as you are signed out.`
      }
    >
      <form onSubmit={submit} noValidate className="flex flex-col gap-3">
        <TextField label="E-mail address" type="email" autoComplete="username" value={link.email ?? ''} readOnly />
        <TextField
          label="Password"
          type="password"
          autoComplete="new-password"
          hint="At least 10 characters; several words are easy to keep in mind"
          error={formState.errors.password?.message}
          {...register('password')}
        />
        <FormProblem error={error} />
        <Button type="submit" variant="next" disabled={isLoading} className="justify-center">
          Come in
        </Button>
      </form>
    </Card>
  )
}

const TREES = [
  { value: 'shipped', text: 'as it ships' },
  { value: 'empty', text: 'its first level alone' },
  { value: 'file', text: 'from a file…' },
] as const

function FoundForm({ token, onEntered }: FormProps) {
  const [found, { isLoading, error }] = useFoundStudioMutation()
  const [tree, setTree] = useState<(typeof TREES)[number]['value']>('shipped')
  const [file, setFile] = useState<{ tree: Exclude<FoundStudio['tree'], string> | null; says: string } | null>(null)
  const { register, handleSubmit, formState } = useZodForm(foundStudioSchema.omit({ tree: true }), {
    studio: '',
    name: '',
    email: '',
    password: '',
  })
  const { errors } = formState
  const readFile = async ({ target }: ChangeEvent<HTMLInputElement>) => {
    const chosen = target.files?.[0]
    if (!chosen) return
    try {
      const parsed = treeFileSchema.safeParse(JSON.parse(await chosen.text()))
      if (parsed.success) setFile({ tree: parsed.data, says: `${parsed.data.length} categories.` })
      else {
        const { path, message } = parsed.error.issues[0]
        setFile({ tree: null, says: `Entry ${Number(path[0] ?? 0) + 1}: ${message}` })
      }
    } catch {
      setFile({ tree: null, says: 'This file is no JSON.' })
    }
  }
  const submit = handleSubmit(async given => {
    const { data } = await found({ token, ...given, tree: tree === 'file' ? file!.tree! : tree })
    if (data) onEntered(data)
  })
  return (
    <Card title="Found your studio" subtitle="Nobody works here yet. You are the first library lead; others are invited by you.">
      <form onSubmit={submit} noValidate className="flex flex-col gap-3">
        <TextField label="Name of the studio" error={errors.studio?.message} {...register('studio')} />
        <TextField label="Your name" autoComplete="name" error={errors.name?.message} {...register('name')} />
        <TextField
          label="Your e-mail address"
          type="email"
          autoComplete="username"
          error={errors.email?.message}
          {...register('email')}
        />
        <TextField
          label="A password"
          type="password"
          autoComplete="new-password"
          hint="At least 10 characters; several words are easy to keep in mind"
          error={errors.password?.message}
          {...register('password')}
        />
        <ChoiceField label="The house tree" value={tree} onChange={setTree} options={TREES} />
        {tree === 'file' && (
          <div className="flex flex-col gap-1 text-xs text-quiet">
            <label htmlFor="tree-file">
              JSON: a list of categories with path, title, kind and prefix, each after the one it lies in
            </label>
            <input id="tree-file" type="file" accept=".json,application/json" onChange={readFile} />
            {file && (
              <p role={file.tree ? 'status' : 'alert'} className={file.tree ? '' : 'font-semibold text-ink'}>
                {file.says}
              </p>
            )}
          </div>
        )}
        <FormProblem error={error} />
        <Button
          type="submit"
          variant="next"
          disabled={isLoading || (tree === 'file' && !file?.tree)}
          className="mt-1 justify-center"
        >
          Found it
        </Button>
      </form>
    </Card>
  )
}

const FormProblem = ({ error }: { error: unknown }) =>
  error ? (
    <p role="alert" className="font-medium">
      {toProblem(error).message}
    </p>
  ) : null
