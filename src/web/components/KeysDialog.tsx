import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react'

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
      ['Space', 'into the tray, or out of it'],
      ['Shift Space', 'everything from the last one to here into the tray'],
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
  return (
    <Dialog open={open} onClose={onClose} className="relative z-50">
      <div className="fixed inset-0 bg-black/40" aria-hidden />
      <div className="fixed inset-0 flex items-center justify-center p-8">
        <DialogPanel tabIndex={0} className="max-h-full w-full max-w-xl overflow-auto rounded-sm bg-sheet p-6 shadow-xl">
          <DialogTitle className="mb-4 text-lg font-medium">Keys</DialogTitle>
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
        </DialogPanel>
      </div>
    </Dialog>
  )
}
