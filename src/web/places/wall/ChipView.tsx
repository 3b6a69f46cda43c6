import { Check, History, Image, Plus } from 'lucide-react'
import { memo } from 'react'
import type { Chip } from '#shared/contracts/chip.contract'
import { Dots } from '../../components/Dots'
import { handOverLink, offerToDesktop } from '../../components/hand-over/hand-over-link'
import { PreviewFrame } from '../../components/PreviewFrame'
import { StateMark } from '../../components/StateMark'
import { useAppSelector } from '../../state/hooks'
import { carryIds } from './carried-items'

/** What is done with a chip; the same functions while the page is there, so that no chip is drawn again because of them. */
export interface ChipActions {
  open: (chip: Chip, index: number) => void
  tray: (chip: Chip, index: number, withRange: boolean) => void
  focus: (index: number) => void
  /** Ids of what goes along when it is carried away. */
  carried: (chip: Chip) => number[]
}

interface Props {
  chip: Chip
  inTray: boolean
  focused: boolean
  /** Stands in the place of its figure. */
  note?: string
  /** Only the picture. */
  isBare?: boolean
  /** Its place in the view, by which it is spoken of. */
  index: number
  actions: ChipActions
  meaningOf: (color: number) => string
}

/** A mounted sample: the preview at the rig's aspect, and a label strip under it. */
export const ChipView = memo(function ChipView({ chip, inTray, focused, note, isBare, index, actions, meaningOf }: Props) {
  const share = useAppSelector(s => s.live.byItem[chip.id])
  return (
    <article
      className={`bg-mount shadow-[0_1px_2px_rgb(0_0_0/0.28)] ${inTray ? 'outline-2 outline-offset-1 outline-ink' : ''}`}
      data-chip={chip.code}
      draggable
      onDragStart={event => {
        const carried = actions.carried(chip)
        carryIds(event, carried)
        if (carried.length === 1) offerToDesktop(event, chip, handOverLink(chip))
      }}
    >
      <button
        type="button"
        data-chip-button={chip.id}
        tabIndex={focused ? 0 : -1}
        onFocus={() => actions.focus(index)}
        onClick={() => actions.open(chip, index)}
        className="block w-full"
        aria-label={`${chip.name}, ${chip.code}`}
        title={isBare ? `${chip.name}, ${chip.code}${note ? `: ${note}` : ''}` : undefined}
      >
        <PreviewFrame url={chip.preview} alt="" share={share} />
      </button>
      {!isBare && (
        <div className="px-2 pt-0.5 pb-1">
          <div className="flex items-center gap-1">
            <p className="min-w-0 flex-1 truncate text-[0.8125rem] leading-[1.125rem] font-medium" title={chip.name}>
              {chip.name}
            </p>
            <button
              type="button"
              tabIndex={-1}
              aria-pressed={inTray}
              aria-label={inTray ? `Take ${chip.name} out of the tray` : `Put ${chip.name} in the tray`}
              title={inTray ? 'Out of the tray' : 'Into the tray'}
              onClick={event => actions.tray(chip, index, event.shiftKey)}
              className={`-mr-1 flex size-5 shrink-0 items-center justify-center rounded-sm ${inTray ? 'bg-ink text-mount' : 'text-quiet hover:bg-surround hover:text-ink'}`}
            >
              {inTray ? <Check aria-hidden className="size-3.5" /> : <Plus aria-hidden className="size-3.5" />}
            </button>
          </div>
          <p className="flex items-center gap-1.5 text-2xs leading-4 text-quiet tabular-nums">
            <StateMark state={chip.state} />
            {!note && <span className="shrink-0">{chip.code}</span>}
            <Dots colors={chip.dots} meaningOf={meaningOf} />
            {chip.isOlderPreview && (
              <History role="img" aria-label="picture of an older rig" className="size-3 shrink-0">
                <title>The picture is of an older rig; the new one is on its way</title>
              </History>
            )}
            {chip.isOwnPicture && (
              <Image role="img" aria-label="picture of its own" className="size-3 shrink-0">
                <title>Somebody set this picture in the place of the rig's</title>
              </Image>
            )}
            <span className={note ? 'truncate' : 'ml-auto truncate'} title={note ? `${chip.code}: ${note}` : chip.figure}>
              {note || chip.figure}
            </span>
          </p>
        </div>
      )}
    </article>
  )
})
