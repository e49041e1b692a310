/** Leaves a field by the keyboard: for what was opened around it, which hears Escape next, or for the page and its keys. */
export function leaveField(field: HTMLElement): void {
  const opened = field.closest<HTMLElement>('.MuiPopover-paper, [role="dialog"]')
  if (opened) opened.focus()
  else field.blur()
}
