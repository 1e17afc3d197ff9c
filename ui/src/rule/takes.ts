/** Takes what was proposed for a text into it: nothing happens if another one is being written by now. */
export type TakeFor = (of: string) => (rule: string) => void;
