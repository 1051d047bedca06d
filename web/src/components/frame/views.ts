/** The views of a plan in the order of the rail, with the key that opens each. */
export const VIEWS = [
  { id: 'plan', name: 'Plan', key: '1' },
  { id: 'fit', name: 'Fit', key: '2' },
  { id: 'trace', name: 'Trace', key: '3' },
  { id: 'interrupts', name: 'Interrupts', key: '4' },
  { id: 'handoff', name: 'Hand-off', key: '5' },
] as const;

/** The id of a view, as it is in the address. */
export type ViewId = (typeof VIEWS)[number]['id'];

/** Whether a text from the address names a view. */
export function isView(text: string): text is ViewId {
  return VIEWS.some((view) => view.id === text);
}
