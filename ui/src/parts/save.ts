import { itemAt, required } from '../lib/required';

/** The properties of a drawing that its stylesheet gives; a file must carry them itself. */
const carried = [
  'fill',
  'fill-opacity',
  'stroke',
  'stroke-width',
  'stroke-opacity',
  'stroke-dasharray',
  'opacity',
  'font-family',
  'font-size',
  'font-weight',
  'font-style',
  'text-anchor',
  'dominant-baseline',
];

/** The interface's font as a data URL, so that a picture looks the same everywhere. */
async function fonts() {
  let css = '';
  for (const sheet of document.styleSheets) {
    for (const rule of sheet.cssRules) {
      if (!(rule instanceof CSSFontFaceRule)) continue;
      const url = /url\("?([^")]+)"?\)/.exec(rule.style.getPropertyValue('src'))?.[1];
      const family = rule.style.getPropertyValue('font-family');
      const range = rule.style.getPropertyValue('unicode-range');
      if (!url || rule.style.getPropertyValue('font-style') === 'italic' || (range && !/U\+0+-|U\+0-/i.test(range)))
        continue;
      const bytes = new Uint8Array(await (await fetch(new URL(url, sheet.href ?? location.href))).arrayBuffer());
      let binary = '';
      for (let i = 0; i < bytes.length; i += 0x8000) binary += String.fromCharCode(...bytes.subarray(i, i + 0x8000));
      css += `@font-face{font-family:${family};font-weight:200 900;src:url(data:font/woff2;base64,${btoa(binary)}) format("woff2")}`;
    }
  }
  return css;
}

/** What a picture is of: its title, and lines that say of what and when. */
export type Caption = { title: string; lines: string[] };

const escaped = (s: string) => s.replaceAll('&', '&amp;').replaceAll('<', '&lt;');

/** Does something while the page is on light paper, on which pictures are taken along; nothing is drawn meanwhile. */
function onLight<T>(work: () => T): T {
  const root = document.documentElement;
  const paper = root.dataset.paper;
  root.dataset.paper = 'light';
  try {
    return work();
  } finally {
    if (paper === undefined) delete root.dataset.paper;
    else root.dataset.paper = paper;
  }
}

/** How wide a picture is taken along, in pixels, and what is behind it. */
export type Size = { width: number; ground: 'white' | 'paper' | 'none' };

const grounds = { white: '#ffffff', paper: '#faf7f0', none: '' } as const;

/** Drawings side by side as one file of SVG, on a ground, under what they are of. */
async function asSVG(drawings: SVGSVGElement[], caption: Caption, size: Size) {
  const boxes = drawings.map((d) => d.viewBox.baseVal);
  const gap = 20;
  const width = boxes.reduce((sum, b) => sum + b.width + gap, gap);
  const head = 34 + 17 * caption.lines.length;
  const height = Math.max(...boxes.map((b) => b.height)) + 2 * gap + head;
  let x = gap;
  let inside = '';
  const family = getComputedStyle(document.body).fontFamily.replaceAll('"', "'");
  inside += `<g style="font-family:${family}"><text x="${gap}" y="34" style="font-size:20px;font-weight:600;fill:#23261f">${escaped(caption.title)}</text>`;
  for (const [i, line] of caption.lines.entries())
    inside += `<text x="${gap}" y="${54 + 17 * i}" style="font-size:13px;fill:#5c5f55">${escaped(line)}</text>`;
  inside += '</g>';
  const draw = () => {
    for (const [i, d] of drawings.entries()) {
      const copy = d.cloneNode(true) as SVGSVGElement;
      const from = d.querySelectorAll('*');
      for (const [j, e] of [...copy.querySelectorAll('*')].entries()) {
        const style = getComputedStyle(itemAt(from, j));
        e.setAttribute('style', carried.map((p) => `${p}:${style.getPropertyValue(p).replaceAll('"', "'")}`).join(';'));
        for (const a of ['role', 'tabindex', 'class', 'aria-pressed', 'aria-label']) e.removeAttribute(a);
      }
      inside += `<g transform="translate(${x - itemAt(boxes, i).x},${gap + head - itemAt(boxes, i).y})">${copy.innerHTML}</g>`;
      x += itemAt(boxes, i).width + gap;
    }
  };
  onLight(draw);
  const ground = grounds[size.ground] && `<rect width="100%" height="100%" fill="${grounds[size.ground]}"/>`;
  const wide = size.width || 2 * width;
  const high = Math.round((wide * height) / width);
  const text = `<svg xmlns="http://www.w3.org/2000/svg" width="${wide}" height="${high}" viewBox="0 0 ${width} ${height}"><defs><style>${await fonts()}</style></defs>${ground}${inside}</svg>`;
  return { text, width: wide, height: high };
}

/** Has the browser fetch a file that the server gives, and put it where it puts downloads. */
export function fetchFile(address: string) {
  const a = document.createElement('a');
  a.href = address;
  a.download = '';
  a.click();
}

export function download(blob: Blob, name: string) {
  const a = document.createElement('a');
  a.href = URL.createObjectURL(blob);
  a.download = name;
  a.click();
  setTimeout(() => URL.revokeObjectURL(a.href), 10_000);
}

const fileName = (name: string) => name.replace(/[^\p{L}\p{N}]+/gu, '-').replace(/^-+|-+$/g, '');

export async function saveSVG(drawings: SVGSVGElement[], caption: Caption, size: Size) {
  const { text } = await asSVG(drawings, caption, size);
  download(new Blob([text], { type: 'image/svg+xml' }), `${fileName(caption.title)}.svg`);
}

export async function savePNG(drawings: SVGSVGElement[], caption: Caption, size: Size) {
  const { text, width, height } = await asSVG(drawings, caption, size);
  const image = new Image();
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`;
  await image.decode();
  const canvas = document.createElement('canvas');
  canvas.width = width;
  canvas.height = height;
  required(canvas.getContext('2d')).drawImage(image, 0, 0, canvas.width, canvas.height);
  const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, 'image/png'));
  if (!blob) throw new Error('the browser could not draw it');
  download(blob, `${fileName(caption.title)}.png`);
}
