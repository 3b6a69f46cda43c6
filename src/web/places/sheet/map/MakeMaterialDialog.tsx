import { Ruler } from 'lucide-react'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { toast } from 'sonner'
import type { Tiling } from '#core/material/open-pbr'
import { proposeCategory } from '#core/standard/propose-category'
import type { Sheet } from '#shared/contracts/items.contract'
import { tellProblem } from '../../../components/bulk-words'
import { Button } from '../../../components/controls/Button'
import { CategoryField } from '../../../components/controls/CategoryChoice'
import { ChoiceField } from '../../../components/controls/Choice'
import { TextField } from '../../../components/controls/Field'
import { readLengthMm } from '../../../components/controls/parse-number'
import { FormDialog } from '../../../components/dialogs/FormDialog'
import { MeasureDialog } from '../../../components/measure/MeasureDialog'
import { useListCategoriesQuery, useMakeMaterialMutation } from '../../../state/api'

/** A flat picture as a material: how wide it is, whether it repeats there, where it belongs. */
export function MakeMaterialDialog({ sheet, onClose }: { sheet: Sheet; onClose: () => void }) {
  const { data: categories = [] } = useListCategoriesQuery()
  const [make, { isLoading }] = useMakeMaterialMutation()
  const navigate = useNavigate()
  const tiles = sheet.facts.find(f => f.name === 'mapTiles')?.value === 'both ways'
  const [name, setName] = useState(sheet.name)
  const [width, setWidth] = useState(sheet.widthMm === null ? '' : String(Math.round(sheet.widthMm)))
  const [tiling, setTiling] = useState<Tiling>(tiles ? 'repeat' : 'once')
  const [category, setCategory] = useState(
    () => proposeCategory('material', { words: sheet.name.toLowerCase().split(/\W+/), folders: [], facts: {} }).path,
  )
  const [isMeasuring, setMeasuring] = useState(false)
  const file = sheet.files.find(f => f.role === 'map')
  const widthMm = readLengthMm(width)
  const send = async () => {
    const result = await make({ id: sheet.id, name, category, widthMm, tiling })
    if (result.error) return tellProblem(result.error)
    toast.success(`${name} is a material now; ${sheet.code} stays as it is.`)
    navigate(`/items/${result.data.code}`)
  }
  return (
    <FormDialog
      title="Make a material"
      action="Make it"
      disabled={isLoading || name.trim() === '' || !(widthMm > 0)}
      onClose={onClose}
      onSubmit={event => {
        event.preventDefault()
        void send()
      }}
    >
      <TextField label="Name" value={name} onChange={e => setName(e.target.value)} maxLength={120} />
      <CategoryField
        label="Category"
        categories={categories.filter(c => c.kind === 'material')}
        value={category}
        onChange={setCategory}
      />
      <ChoiceField
        label="At its true width"
        value={tiling}
        onChange={setTiling}
        options={[
          { value: 'repeat', text: 'it repeats, edge to edge' },
          { value: 'once', text: 'it stands once, stretched into its frame' },
        ]}
      />
      <div className="flex items-end gap-2">
        <div className="flex-1">
          <TextField
            label="Real-world width"
            placeholder="1200 mm"
            value={width}
            onChange={e => setWidth(e.target.value)}
            error={width !== '' && !(widthMm > 0) ? 'A number, with mm, cm or m.' : undefined}
          />
        </div>
        {file && (
          <Button onClick={() => setMeasuring(true)}>
            <Ruler aria-hidden className="size-4" />
            Measure
          </Button>
        )}
      </div>
      {isMeasuring && file && (
        <MeasureDialog
          name={sheet.name}
          url={file.url}
          onWidth={mm => {
            setWidth(String(mm))
            setMeasuring(false)
          }}
          onClose={() => setMeasuring(false)}
        />
      )}
    </FormDialog>
  )
}
