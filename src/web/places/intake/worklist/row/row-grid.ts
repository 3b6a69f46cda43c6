/** Columns that the head of the worklist and its rows share. */
export const ROW_GRID = 'grid grid-cols-[1.5rem_6rem_minmax(0,1fr)_11rem_6.5rem_minmax(0,11rem)_5rem_7rem] items-center gap-x-4'
