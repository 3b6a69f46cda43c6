/** What every control on one line shares: height, edge and how it looks while it has the focus. */
export const CONTROL =
  'h-8 min-w-0 rounded-sm border border-edge bg-mount px-2 placeholder:text-quiet/80 hover:border-ink focus-visible:border-ink focus-visible:outline-offset-0 disabled:opacity-50 disabled:hover:border-edge'

/** Without an edge until it is pointed at: for what is read more often than it is changed. */
export const BARE_CONTROL =
  'h-6 min-w-0 rounded-sm border border-transparent bg-transparent hover:border-edge disabled:hover:border-transparent'

export const CONTROLS = { framed: CONTROL, plain: BARE_CONTROL }
export type ControlVariant = keyof typeof CONTROLS

/** The sheet on which a control lists what can be chosen. */
export const PANEL =
  'z-50 max-h-80! overflow-y-auto rounded-sm border border-edge bg-mount py-1 shadow-lg [--anchor-gap:2px] focus:outline-none'

/** One line of it. */
export const PANEL_LINE =
  'flex cursor-pointer items-center gap-2 py-1 pr-3 pl-1.5 text-left data-disabled:cursor-default data-disabled:opacity-45 data-focus:bg-sheet'
