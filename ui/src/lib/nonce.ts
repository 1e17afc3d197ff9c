import { setNonce } from 'get-nonce';

/** The content policy lets style elements in that carry this. */
export const nonce = document.querySelector<HTMLMetaElement>('meta[name=csp-nonce]')?.content;

if (nonce) setNonce(nonce);
