/** The code with which something was refused; 'went through' where it was not. */
export const refused = async (run: Promise<unknown>): Promise<string> =>
  run.then(
    () => 'went through',
    error => error.code,
  )
