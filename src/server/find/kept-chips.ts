import { LRUCache } from 'lru-cache'
import type { Chip } from '#shared/contracts/chip.contract'
import type { KeptChips } from '../platform/context'

const MOST_CHIPS = 20_000

export class ChipCache implements KeptChips {
  stamp = 0
  private readonly chips = new LRUCache<number, Chip>({ max: MOST_CHIPS })

  get(id: number): Chip | undefined {
    return this.chips.get(id)
  }

  keep(stamp: number, chips: readonly Chip[]): void {
    if (stamp === this.stamp) for (const chip of chips) this.chips.set(chip.id, chip)
  }

  forget(ids: Iterable<number>): void {
    this.stamp++
    for (const id of ids) this.chips.delete(id)
  }

  forgetAll(): void {
    this.stamp++
    this.chips.clear()
  }
}
