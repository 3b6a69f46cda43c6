import { Modal } from './Modal'

const KEYS: [string, [string, string][]][] = [
  [
    'Everywhere',
    [
      ['?', 'this list'],
      ['Esc', 'close what lies on top'],
    ],
  ],
  [
    'Wall',
    [
      ['/', 'to the search line'],
      ['← ↑ → ↓', 'from chip to chip'],
      ['Enter', 'open the sheet'],
      ['N', 'narrow by everything that tells them apart'],
      ['T', 'the house tree beside the wall'],
      ['R', 'as rows of a table, and back'],
      ['1 … 6', 'a dot on the chip, or off it'],
      ['L', 'what is like the chip'],
      ['+ −', 'larger chips, smaller chips'],
      ['M', 'what is yours: views, trays, last looked at'],
      ['C', 'compare what is in the tray'],
      ['Space', 'into the tray, or out of it'],
      ['Shift Space', 'everything from the last one to here into the tray'],
    ],
  ],
  [
    'Table',
    [
      ['← ↑ → ↓', 'from cell to cell'],
      ['Enter', 'write in the cell, or open the sheet'],
      ['Tab', 'keep what is written, and on to the next cell'],
      ['Ctrl V', "a spreadsheet's cells, from this one on"],
    ],
  ],
  [
    'Sheet',
    [
      ['J', 'next item'],
      ['K', 'item before'],
      ['Space', 'into the tray, or out of it'],
      ['← ↑ → ↓', 'turn it, once it is turned'],
      ['+ −', 'come closer, go back'],
      ['0', 'back to its picture'],
    ],
  ],
  [
    'Mock-up',
    [
      ['/', 'to the search on the shelf; Enter brings the first in'],
      ['← ↑ → ↓', 'move what is chosen, or walk'],
      ['PgUp PgDn', 'higher, lower'],
      ['[ ]', 'turn by 15°'],
      ['D', 'a copy beside it'],
      ['H  L', 'hide or show, lock or free'],
      ['Delete', 'take out'],
      ['V', 'the next variant of the part'],
      ['M', 'take up the material of the part; a click puts it on others'],
      ['F', 'look at what is chosen'],
      ['P', 'keep what is seen as a shot'],
      ['1 … 9', 'to a shot'],
      ['O  I', 'things in the scene, its pictures'],
      ['T', 'refine the view at rest, or not'],
      ['Ctrl Z', 'undo; with Shift, redo'],
    ],
  ],
  [
    'Newer versions',
    [
      ['J  K', 'next, the one before'],
      ['T', 'take it'],
      ['S', 'leave it, and say why'],
    ],
  ],
  [
    'Compare',
    [
      ['1 2 3 4', 'side by side, wiper, blink, difference'],
      ['+ −', 'larger, smaller'],
      ['← ↑ → ↓', 'move the picture that has the focus'],
      ['0', 'the whole picture'],
      ['X', 'the other picture, while blinking'],
    ],
  ],
  [
    'Intake',
    [
      ['↑ ↓', 'from row to row'],
      ['Space', 'mark the row'],
      ['Shift Space', 'mark everything from the last one to here'],
      ['Enter', 'its findings, with their pictures'],
      ['F', 'fix what can be fixed of it'],
      ['A', 'accept it, or all that are marked'],
      ['S', 'set it aside, or take it back'],
    ],
  ],
]

export function KeysDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  if (!open) return null
  return (
    <Modal title="Keys" width="wide" onClose={onClose}>
      <div className="grid grid-cols-2 gap-x-8 gap-y-5">
        {KEYS.map(([place, list]) => (
          <section key={place}>
            <h3 className="mb-1.5 text-xs text-quiet">{place}</h3>
            <dl className="grid grid-cols-[6.5rem_1fr] gap-y-1">
              {list.map(([key, what]) => (
                <div key={key} className="contents">
                  <dt className="figures text-xs">{key}</dt>
                  <dd>{what}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
    </Modal>
  )
}
