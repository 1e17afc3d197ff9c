/** A part of an archive: a text, or bytes in base64. */
type Part = { name: string; data: string; base64: boolean };

/** The server's own: packs parts as an archive, and gives it in base64. */
declare function pack(parts: Part[]): string;

/**
 * Stands in for the library of archives that the library of slides uses: an interpreter takes seconds for what the server packs at
 * once. It knows what is asked of it there, no more.
 */
export default class Archive {
  private parts: Part[] = [];
  folder() {
    return this; // names of parts hold their folders
  }
  file(name: string, data: string, { base64 = false } = {}) {
    this.parts.push({ name, data, base64 });
    return this;
  }
  async generateAsync() {
    return pack(this.parts);
  }
}
