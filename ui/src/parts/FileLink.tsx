type Props = { words: string; title?: string; accept?: string; choose: (file: File) => void };

/** Chooses a file, as a word in a line of text. */
export const FileLink = ({ words, title = '', accept, choose }: Props) => (
  <label
    title={title}
    className="relative cursor-pointer px-0.5 underline decoration-edge underline-offset-3 focus-within:outline-2
      focus-within:outline-moss hover:decoration-moss"
  >
    {words}
    <input
      className="absolute size-px opacity-0"
      type="file"
      accept={accept}
      aria-label={`${words} ${title}`.trim()}
      onChange={(e) => {
        const file = e.target.files?.[0];
        if (file) choose(file);
        e.target.value = '';
      }}
    />
  </label>
);
