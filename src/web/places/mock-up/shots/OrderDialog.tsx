import { useState } from 'react'
import type { Scene } from '#core/mock-up/scene/scene'
import { MOST_PICTURE_PX, type OrderPictures } from '#shared/contracts/mock-ups.contract'
import { Button } from '../../../components/controls/Button'
import { CheckBox } from '../../../components/controls/CheckBox'
import { Choice } from '../../../components/controls/Choice'
import { Modal } from '../../../components/dialogs/Modal'
import { Line } from '../../../components/Line'
import { plural } from '../../../words/states'
import { shotsInOrder } from '../state/shots-in-order'

interface Props {
  scene: Scene
  /** The shot that is looked through. */
  shot: string | null
  onOrder: (order: OrderPictures) => void
  onClose: () => void
}

/** Of finals, along the longer side. */
const SIZES_PX = [960, 1280, 1600, 2048, MOST_PICTURE_PX]
const USUAL_PX = 1600

/** Several pictures at once: shots, each under skies, in the variants of a choice. */
export function OrderDialog({ scene, shot, onOrder, onClose }: Props) {
  const shots = shotsInOrder(scene)
  const [chosen, setChosen] = useState<readonly string[]>(shot === null ? shots.map(([id]) => id) : [shot])
  const [skies, setSkies] = useState<readonly string[]>([])
  const [choice, setChoice] = useState('')
  const [quality, setQuality] = useState<OrderPictures['quality']>('draft')
  const [longerPx, setLongerPx] = useState(USUAL_PX)
  const count = chosen.length * Math.max(1, skies.length) * (scene.choices[choice]?.variants.length ?? 1)
  const toggled = (list: readonly string[], id: string, isOn: boolean) => (isOn ? [...list, id] : list.filter(i => i !== id))
  return (
    <Modal title="Render several" onClose={onClose}>
      <div className="flex flex-col gap-4">
        <fieldset className="flex flex-col gap-1.5">
          <legend className="mb-1 font-medium">Shots</legend>
          {shots.map(([id, s]) => (
            <CheckBox
              key={id}
              label={s.name}
              checked={chosen.includes(id)}
              onChange={isOn => setChosen(toggled(chosen, id, isOn))}
            />
          ))}
          {shots.length === 0 && <p className="text-quiet">Take a shot first: a picture is made of one.</p>}
        </fieldset>
        {Object.keys(scene.skies).length > 0 && (
          <fieldset className="flex flex-col gap-1.5">
            <legend className="mb-1 font-medium">Each under these skies</legend>
            {Object.entries(scene.skies).map(([id, s]) => (
              <CheckBox
                key={id}
                label={s.name}
                checked={skies.includes(id)}
                onChange={isOn => setSkies(toggled(skies, id, isOn))}
              />
            ))}
            {skies.length === 0 && <p className="text-xs text-quiet">None chosen: each shot under its own.</p>}
          </fieldset>
        )}
        {Object.keys(scene.choices).length > 0 && (
          <Line text="Each in the variants of">
            <Choice
              label="Each in the variants of"
              value={choice}
              onChange={setChoice}
              options={[
                { value: '', text: 'none, as they are' },
                ...Object.entries(scene.choices).map(([value, c]) => ({ value, text: `${c.name}, ${c.variants.length}` })),
              ]}
              className="w-52"
            />
          </Line>
        )}
        <Line text="As">
          <Choice
            label="As"
            value={quality}
            onChange={setQuality}
            options={[
              { value: 'draft', text: 'drafts' },
              { value: 'final', text: 'finals' },
            ]}
            className="w-52"
          />
        </Line>
        {quality === 'final' && (
          <Line text="Longer side">
            <Choice
              label="Longer side"
              value={String(longerPx)}
              onChange={px => setLongerPx(Number(px))}
              options={SIZES_PX.map(px => ({ value: String(px), text: `${px} px${sayWork(px)}` }))}
              className="w-52"
            />
          </Line>
        )}
        <div className="flex justify-end gap-2">
          <Button variant="bare" onClick={onClose}>
            Leave it
          </Button>
          <Button
            variant="next"
            disabled={count === 0}
            onClick={() =>
              onOrder({
                shots: [...chosen],
                skies: [...skies],
                choice: choice === '' ? null : choice,
                quality,
                longerPx: quality === 'final' ? longerPx : null,
              })
            }
          >
            Render {plural(count, 'picture')}
          </Button>
        </div>
      </div>
    </Modal>
  )
}

/** How much longer or shorter a picture of that size takes than the usual one. */
function sayWork(px: number): string {
  const times = (px / USUAL_PX) ** 2
  if (times === 1) return ''
  return times < 1 ? `, ${Math.round(times * 100)} % of the work` : `, ${times.toFixed(1)} × the work`
}
