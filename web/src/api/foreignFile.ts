/** A file of text from another program: as text where it is UTF-8, else its bytes, which the server makes out. */
export type ForeignFile = { text: string; data: string };

export async function foreignFile(file: Blob): Promise<ForeignFile> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  try {
    return { text: new TextDecoder("utf-8", { fatal: true }).decode(bytes), data: "" };
  } catch {
    let whole = "";
    for (let at = 0; at < bytes.length; at += 0x8000) whole += String.fromCharCode(...bytes.subarray(at, at + 0x8000));
    return { text: "", data: btoa(whole) };
  }
}
