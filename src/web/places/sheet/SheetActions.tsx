import { useState } from 'react'
import { useForm } from 'react-hook-form'
import { Link } from 'react-router'
import { toast } from 'sonner'
import type { Tiling } from '#core/material/open-pbr'
import type { ItemState } from '#shared/contracts/chip.contract'
import type { Category, Sheet } from '#shared/contracts/items.contract'
import { factWord } from '#shared/units'
import { tellProblem } from '../../components/bulk-words'
import { CarryMenu } from '../../components/CarryMenu'
import { Button } from '../../components/controls/Button'
import { TextField } from '../../components/controls/Field'
import { FormCategory, FormChoice } from '../../components/controls/FormFields'
import { parseNumber } from '../../components/controls/parse-number'
import { toProblem, useEditItemMutation, useSetStatesMutation } from '../../state/api'
import { STATE_WORDS } from '../../words/states'
import { ApproveDialog } from './ApproveDialog'
import { MakeMaterialDialog } from './map/MakeMaterialDialog'

interface Props {
  sheet: Sheet
  inTray: boolean
  onTray: () => void
  categories: readonly Category[]
}

export function SheetActions({ sheet, inTray, onTray, categories }: Props) {
  const [setStates, { isLoading }] = useSetStatesMutation()
  const [editing, setEditing] = useState(false)
  const [making, setMaking] = useState(false)
  const [approving, setApproving] = useState(false)
  /** Another version is approved already. */
  const replaces = sheet.versions.some(v => v.isApproved) && !sheet.version.isApproved
  const missing = sheet.standard.missingFacts
  const blocked = sheet.findings.filter(f => f.severity === 'mustFix').length
  const current = sheet.versions[0]?.id === sheet.version.id
  const approvedNow = sheet.state === 'approved' && sheet.version.isApproved
  const put = async (state: ItemState) => {
    const before = sheet.state
    const result = await setStates({ ids: [sheet.id], state })
    if (result.error) tellProblem(result.error)
    else if (result.data?.refused[0]) toast.warning(result.data.refused[0].reason)
    else
      toast.success(`${sheet.name} is ${STATE_WORDS[state]}.`, {
        action: { label: 'Undo', onClick: () => setStates({ ids: [sheet.id], state: before }) },
      })
  }
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap gap-2">
        {sheet.mayEdit && current && !approvedNow && sheet.state !== 'withdrawn' && (
          <Button
            variant="next"
            disabled={isLoading || blocked > 0 || missing.length > 0}
            onClick={() => (replaces ? setApproving(true) : put('approved'))}
            title={
              blocked > 0
                ? `${blocked} must be fixed first`
                : missing.length > 0
                  ? `Its ${missing.map(factWord).join(', ')} must be known first`
                  : undefined
            }
          >
            Approve
          </Button>
        )}
        <Button variant={sheet.mayEdit ? 'plain' : 'next'} onClick={onTray} aria-pressed={inTray}>
          {inTray ? 'Out of the tray' : 'Into the tray'}
        </Button>
        {sheet.mayEdit && (
          <Button aria-expanded={editing} onClick={() => setEditing(!editing)}>
            Edit
          </Button>
        )}
        <Link
          to={`/wall?like=${sheet.code}`}
          className="inline-flex h-8 items-center rounded-sm border border-edge bg-mount px-3 hover:border-ink"
          title="Everything that looks like it, the nearest first"
        >
          More like this
        </Link>
        {sheet.mayEdit && sheet.kind === 'map' && <Button onClick={() => setMaking(true)}>Make a material</Button>}
        {sheet.mayEdit && <CarryMenu chips={[sheet]} />}
        {sheet.mayEdit && sheet.state === 'draft' && (
          <Button variant="bare" disabled={isLoading} onClick={() => put('inReview')}>
            Ask for review
          </Button>
        )}
        {sheet.mayEdit &&
          (sheet.state === 'withdrawn' ? (
            <Button disabled={isLoading} onClick={() => put('draft')}>
              Bring back as draft
            </Button>
          ) : (
            <Button variant="bare" disabled={isLoading} onClick={() => put('withdrawn')}>
              Withdraw
            </Button>
          ))}
      </div>
      {approving && <ApproveDialog sheet={sheet} onReplace={() => void put('approved')} onClose={() => setApproving(false)} />}
      {making && <MakeMaterialDialog sheet={sheet} onClose={() => setMaking(false)} />}
      {editing && <EditForm sheet={sheet} categories={categories} onDone={() => setEditing(false)} />}
    </div>
  )
}

interface EditValues {
  name: string
  category: string
  widthMm: string
  tiling: Tiling
}

function EditForm({ sheet, categories, onDone }: { sheet: Sheet; categories: readonly Category[]; onDone: () => void }) {
  const [edit, { isLoading, error }] = useEditItemMutation()
  const { control, register, handleSubmit, formState } = useForm<EditValues>({
    defaultValues: {
      name: sheet.name,
      category: sheet.category,
      widthMm: sheet.widthMm === null ? '' : String(sheet.widthMm),
      tiling: sheet.tiling,
    },
  })
  // What is flat has a width of its own.
  const isFlat = sheet.kind === 'material' || sheet.kind === 'map'
  const save = async ({ name, category, widthMm, tiling }: EditValues) => {
    const width = parseNumber(widthMm)
    const result = await edit({
      id: sheet.id,
      name,
      category,
      ...(isFlat && widthMm ? { widthMm: width } : {}),
      ...(sheet.kind === 'material' ? { tiling } : {}),
    })
    if (!result.error) onDone()
  }
  return (
    <form onSubmit={handleSubmit(save)} noValidate className="flex flex-col gap-3 bg-mount p-3">
      <TextField
        label="Name"
        error={formState.errors.name?.message}
        {...register('name', { required: 'An item needs a name.' })}
      />
      <FormCategory
        label="Category"
        control={control}
        name="category"
        categories={categories.filter(c => c.kind === sheet.kind)}
      />
      {isFlat && (
        <TextField
          label="Real-world width"
          unit="mm"
          hint="A new width makes a new version"
          error={formState.errors.widthMm?.message}
          {...register('widthMm', {
            validate: v => v === '' || parseNumber(v) > 0 || 'The width must be more than 0 mm.',
          })}
        />
      )}
      {sheet.kind === 'material' && (
        <FormChoice
          label="At that width"
          control={control}
          name="tiling"
          options={[
            { value: 'repeat', text: 'it repeats, edge to edge' },
            { value: 'once', text: 'it stands once, as a picture' },
          ]}
        />
      )}
      {error && (
        <p role="alert" className="font-medium">
          {toProblem(error).message}
        </p>
      )}
      <div className="flex gap-2">
        <Button type="submit" variant="next" disabled={isLoading}>
          Save
        </Button>
        <Button variant="bare" onClick={onDone}>
          Leave as it is
        </Button>
      </div>
    </form>
  )
}
