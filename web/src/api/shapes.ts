declare const __SHAPES__: string | undefined;

/** What the answers of the server look like to this page, as a hash of their document: a copy of another page with other answers is not read. */
export const shapes: string = typeof __SHAPES__ === "string" ? __SHAPES__ : "";
