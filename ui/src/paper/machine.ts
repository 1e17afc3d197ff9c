import { itemAt } from '../lib/required';

/** What the interpreter of the server has no part of its own for, and the libraries for files need. Imported before them. */
declare function utf8(s: string): ArrayBuffer;

const host = globalThis as unknown as Record<string, unknown>;
const letters = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';

function toBase64(s: string) {
  const out: string[] = [];
  for (let i = 0; i < s.length; i += 3) {
    const [a, b, c] = [s.charCodeAt(i), s.charCodeAt(i + 1), s.charCodeAt(i + 2)] as [number, number, number];
    const left = s.length - i;
    out.push(
      itemAt(letters, a >> 2),
      itemAt(letters, ((a & 3) << 4) | (left > 1 ? b >> 4 : 0)),
      left > 1 ? itemAt(letters, ((b & 15) << 2) | (left > 2 ? c >> 6 : 0)) : '=',
      left > 2 ? itemAt(letters, c & 63) : '=',
    );
  }
  return out.join('');
}

function fromBase64(s: string) {
  const out: string[] = [];
  let bits = 0;
  let held = 0;
  for (const letter of s.replace(/[=\s]/g, '')) {
    held = ((held << 6) | letters.indexOf(letter)) & 0xffffff;
    bits += 6;
    if (bits >= 8) {
      bits -= 8;
      out.push(String.fromCharCode((held >> bits) & 255));
    }
  }
  return out.join('');
}

const thousands = (n: number) => String(n).replace(/\B(?=(\d{3})+$)/g, ',');

Object.assign(host, {
  self: host,
  window: host,
  global: host,
  console: { log() {}, warn() {}, error() {}, info() {} },
  setImmediate: (f: () => void) => setTimeout(f, 0),
  clearImmediate() {},
  // Nothing is animated.
  setInterval() {},
  clearInterval() {},
  btoa: toBase64,
  atob: fromBase64,
  TextEncoder: class {
    encode = (s: string) => new Uint8Array(utf8(s));
  },
  TextDecoder: class {},
  MessageChannel: class {
    port1 = {};
    port2 = { postMessage() {} };
  },
  Intl: {
    NumberFormat: class {
      format = thousands;
    },
  },
});
