/** The views of a question, in the order of the work. */
export const views = {
  data: 'Data',
  clean: 'Clean',
  terms: 'Terms',
  code: 'Code',
  review: 'Review',
  chart: 'Chart',
  report: 'Report',
} as const;
export type View = keyof typeof views;
export const viewOrder = Object.keys(views) as View[];

/** The address of a view. The focus goes along; what was selected stays behind. */
export function viewAddress(question: number, view: View, focus: string, more: Record<string, string> = {}) {
  const words = new URLSearchParams({ ...(focus ? { focus } : {}), ...more }).toString();
  return `/q/${question}/${view}${words ? `?${words}` : ''}`;
}
