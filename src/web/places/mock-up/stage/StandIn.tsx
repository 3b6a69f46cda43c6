import { Button } from '../../../components/controls/Button'
import { Choice } from '../../../components/controls/Choice'
import { Line } from '../../../components/Line'

/** A model of the library is about to stand in the place of something: the next one that is brought in does. */
export interface StandInWish {
  /** Of everything of its kind at once. */
  isForAll: boolean
  /** As high as what it stands for, not as it is made. */
  isFitted: boolean
}

interface Props {
  wish: StandInWish | null
  onWish: (wish: StandInWish | null) => void
  /** How many of its kind there are. */
  alike: number
  /** What is replaced, as it is called there. */
  what: string
}

/** Asks for another model in the place of what is chosen, for one or for all of its kind. */
export function StandIn({ wish, onWish, alike, what }: Props) {
  if (!wish)
    return (
      <Button className="self-start" onClick={() => onWish({ isForAll: alike > 1, isFitted: false })}>
        Put a model in its place
      </Button>
    )
  return (
    <section aria-label="In its place" className="flex flex-col gap-1.5 border-l-2 border-ink pl-2">
      <p className="text-xs">Now choose a model on the shelf, or drop one into the scene.</p>
      {alike > 1 && (
        <Line text="For">
          <Choice
            label="For"
            value={wish.isForAll ? 'all' : 'one'}
            onChange={value => onWish({ ...wish, isForAll: value === 'all' })}
            options={[
              { value: 'one', text: `this ${what}` },
              { value: 'all', text: `all ${alike} like it` },
            ]}
            className="w-36"
          />
        </Line>
      )}
      <Line text="As large">
        <Choice
          label="As large"
          value={wish.isFitted ? 'fitted' : 'true'}
          onChange={value => onWish({ ...wish, isFitted: value === 'fitted' })}
          options={[
            { value: 'true', text: 'as it is made' },
            { value: 'fitted', text: `as high as this` },
          ]}
          className="w-36"
        />
      </Line>
      <Button variant="bare" className="-ml-3 self-start" onClick={() => onWish(null)}>
        Leave it
      </Button>
    </section>
  )
}
