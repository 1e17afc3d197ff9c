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

/** Drawings side by side as one file of SVG, on the paper they stand on. */
async function asSVG(drawings: SVGSVGElement[]) {
  const boxes = drawings.map((d) => d.viewBox.baseVal);
  const gap = 20;
  const width = boxes.reduce((sum, b) => sum + b.width + gap, gap);
  const height = Math.max(...boxes.map((b) => b.height)) + 2 * gap;
  const paper = getComputedStyle(document.body).backgroundColor;
  let x = gap;
  let inside = '';
  for (const [i, d] of drawings.entries()) {
    const copy = d.cloneNode(true) as SVGSVGElement;
    const from = d.querySelectorAll('*');
    for (const [j, e] of [...copy.querySelectorAll('*')].entries()) {
      const style = getComputedStyle(from[j]!);
      e.setAttribute('style', carried.map((p) => `${p}:${style.getPropertyValue(p).replaceAll('"', "'")}`).join(';'));
      for (const a of ['role', 'tabindex', 'class', 'aria-pressed', 'aria-label']) e.removeAttribute(a);
    }
    inside += `<g transform="translate(${x - boxes[i]!.x},${gap - boxes[i]!.y})">${copy.innerHTML}</g>`;
    x += boxes[i]!.width + gap;
  }
  const text = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}"><defs><style>${await fonts()}</style></defs><rect width="100%" height="100%" fill="${paper}"/>${inside}</svg>`;
  return { text, width, height };
}

function download(blob: Blob, name: string) {
  const a = document.createElement('a');
  a.href = URL.createObjectURL(blob);
  a.download = name;
  a.click();
  setTimeout(() => URL.revokeObjectURL(a.href), 10_000);
}

const fileName = (name: string) => name.replace(/[^\p{L}\p{N}]+/gu, '-').replace(/^-+|-+$/g, '');

export async function saveSVG(drawings: SVGSVGElement[], name: string) {
  const { text } = await asSVG(drawings);
  download(new Blob([text], { type: 'image/svg+xml' }), `${fileName(name)}.svg`);
}

/** Twice the size on screen, so that it is sharp in a report. */
export async function savePNG(drawings: SVGSVGElement[], name: string) {
  const { text, width, height } = await asSVG(drawings);
  const image = new Image();
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`;
  await image.decode();
  const canvas = document.createElement('canvas');
  canvas.width = 2 * width;
  canvas.height = 2 * height;
  canvas.getContext('2d')!.drawImage(image, 0, 0, canvas.width, canvas.height);
  const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, 'image/png'));
  if (!blob) throw new Error('the browser could not draw it');
  download(blob, `${fileName(name)}.png`);
}
