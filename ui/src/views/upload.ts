import { Refusal, type Upload } from '../api/client';

/** The file that was chosen, on its way from the list of studies to the loading page. */
export const held: { file?: File } = {};

/** Sends a file, telling how much of it has gone. fetch can't tell that, so this is the one request made otherwise. */
export function send(file: File, tell: (share: number) => void, signal: AbortSignal): Promise<Upload> {
  return new Promise((done, failed) => {
    const r = new XMLHttpRequest();
    r.open('POST', '/api/v1/uploads');
    r.setRequestHeader('Content-Type', 'text/csv');
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
