import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { api, type Preview, type Recipe, Refusal, take, type Upload } from './api';
import { maker } from './maker';
import { required } from './required';

/** What was chosen, on its way to the page that loads it: a file, pasted text, or a link. */
export const held: { file?: File; link?: string } = {};

/** Pasted text is a file that has no name. */
export const pasted = (text: string) => new File([text], 'pasted text', { type: 'text/plain' });

/** Posts a file, telling how much of it has gone. fetch can't tell that, so these are the only requests made otherwise. */
export function post<T>(address: string, file: File, tell: (share: number) => void, signal: AbortSignal): Promise<T> {
  return new Promise((done, failed) => {
    const r = new XMLHttpRequest();
    r.open('POST', address);
    r.setRequestHeader('Content-Type', file.type || 'application/octet-stream');
    if (maker()) r.setRequestHeader('Made-By', encodeURIComponent(maker()));
    r.responseType = 'json';
    r.upload.onprogress = (e) => e.lengthComputable && tell(e.loaded / e.total);
    r.onload = () =>
      r.status < 300
        ? done(r.response)
        : failed(new Refusal(r.response?.detail ?? 'The file was not taken.', r.status));
    r.onerror = () =>
      failed(new Refusal('The server can’t be reached. Nothing was loaded; try again when it runs.', 0));
    r.onabort = () => failed(new DOMException('', 'AbortError'));
    signal.addEventListener('abort', () => r.abort());
    r.send(file);
  });
}

const send = (file: File, tell: (share: number) => void, signal: AbortSignal) =>
  post<Upload>(`/api/v1/uploads?${new URLSearchParams({ name: file.name })}`, file, tell, signal);

export type Incoming = {
  what?: string;
  sent: number;
  upload?: Upload;
  recipe?: Recipe;
  setRecipe: (r: Recipe) => void;
  preview?: Preview;
  /** The preview is of the recipe before. */
  stale: boolean;
  error?: string;
};

/** Brings in what is held, and previews it as its recipe says. */
export function useIncoming(): Incoming {
  const [from] = useState({ ...held });
  const [sent, setSent] = useState(0);
  const [upload, setUpload] = useState<Upload>();
  const [recipe, setRecipe] = useState<Recipe>();
  const [error, setError] = useState('');
  const begun = useRef(false);
  useEffect(() => {
    if (begun.current || (!from.file && !from.link)) return;
    begun.current = true;
    const coming = from.file
      ? send(from.file, setSent, new AbortController().signal)
      : take(api.POST('/api/v1/uploads/link', { body: { link: required(from.link) } }));
    coming.then(
      (u) => {
        const { because: _, sheets: __, ...guess } = u.guess;
        setUpload(u);
        setRecipe(guess);
      },
      (e) => setError(e.message),
    );
  }, [from]);
  const preview = useQuery({
    queryKey: ['upload', upload?.id, recipe],
    queryFn: ({ signal }) =>
      take(
        api.POST('/api/v1/uploads/{upload}/try', {
          params: { path: { upload: required(upload).id } },
          body: required(recipe),
          signal,
        }),
      ),
    enabled: !!recipe,
    placeholderData: (old) => old,
  });
  return {
    what: from.file?.name ?? from.link,
    sent,
    upload,
    recipe,
    setRecipe,
    preview: preview.data,
    stale: preview.isPlaceholderData,
    error: error || preview.error?.message,
  };
}
