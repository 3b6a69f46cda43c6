import { useState } from 'react'
import { MOCK_UP_DETAILS, MOCK_UP_FORMS, MOCK_UP_TEXTURES, type SaveMockUp } from '#shared/contracts/mock-ups.contract'
import { tellProblem } from '../../components/bulk-words'
import { ChoiceField } from '../../components/controls/Choice'
import { FormDialog } from '../../components/dialogs/FormDialog'
import { download } from '../../components/save-blob'

const FORM_WORDS: Record<SaveMockUp['form'], string> = {
  glb: 'binary glTF, all of it in one file',
  gltf: 'glTF with its files, as a zip',
  usdz: 'OpenUSD package',
  obj: 'OBJ with its materials, as a zip',
  references: 'glTF that refers to the library',
}
const DETAIL_WORDS: Record<SaveMockUp['detail'], string> = { full: 'all of them whole', light: 'their lightest level of detail' }
const LOSES: Partial<Record<SaveMockUp['form'], string>> = {
  usdz: 'Pieces, plants, materials, lights and cameras; what is repeated is in it once. Variants and the curves of lights stay in glTF.',
  obj: 'Surfaces and materials where they stand, with the names of their groups. Cameras, lights and variants stay in glTF.',
  references:
    'What stands where and wears what, by code and version, and the files by their hashes: for whoever has the library.',
}

/** Saves the scene in a form, with textures no larger than they are needed. */
export function SaveDialog({ mockUpId, onClose }: { mockUpId: number; onClose: () => void }) {
  const [form, setForm] = useState<SaveMockUp['form']>('usdz')
  const [texture, setTexture] = useState<SaveMockUp['texture']>('2048')
  const [detail, setDetail] = useState<SaveMockUp['detail']>('full')
  const [isWriting, setWriting] = useState(false)
  const save = async () => {
    setWriting(true)
    const problem = await download(`/api/mock-ups/${mockUpId}/glb?${new URLSearchParams({ form, texture, detail })}`)
    setWriting(false)
    if (problem) tellProblem(problem)
    else onClose()
  }
  return (
    <FormDialog
      title="Save the scene"
      action={isWriting ? 'Writing it' : 'Save'}
      disabled={isWriting}
      onClose={onClose}
      onSubmit={event => {
        event.preventDefault()
        void save()
      }}
    >
      <ChoiceField
        label="As"
        value={form}
        onChange={setForm}
        hint={LOSES[form]}
        options={MOCK_UP_FORMS.map(value => ({ value, text: FORM_WORDS[value] }))}
      />
      {form !== 'references' && (
        <>
          <ChoiceField
            label="Textures"
            value={texture}
            onChange={setTexture}
            options={MOCK_UP_TEXTURES.map(value => ({ value, text: `at most ${Number(value).toLocaleString('en')} pixels` }))}
          />
          <ChoiceField
            label="Models"
            value={detail}
            onChange={setDetail}
            hint={detail === 'light' ? 'Models without levels of detail are written whole.' : undefined}
            options={MOCK_UP_DETAILS.map(value => ({ value, text: DETAIL_WORDS[value] }))}
          />
        </>
      )}
    </FormDialog>
  )
}
