// Controls of a terminal (C0, C1, DELETE), and marks that turn the direction of text around
// (UAX 9): names, titles and values come from elsewhere and may hold any of them.
const controls = /[\u0000-\u0008\u000b-\u001f\u007f-\u009f]/g;
const directions = /[\u061c\u200e\u200f\u202a-\u202e\u2066-\u2069]/g;

/** A text from elsewhere on one line, with nothing in it that moves the cursor or paints. */
export function plain(text: string): string {
  return lines(text).replace(/\r\n|[\n\r\t]/g, (mark) => (mark === '\t' ? ' ' : '⏎'));
}

/** The same of a text that may have several lines. */
export function lines(text: string): string {
  return text.replace(/\r\n/g, '\n').replace(controls, '�').replace(directions, '�');
}

/**
 * Pieces of a text in UTF-8 as a terminal may show them: nothing in them moves the cursor, also where a character
 * stands in two pieces.
 */
export function plainPieces(isJson: boolean): (piece?: Uint8Array) => string {
  const decoder = new TextDecoder();
  return (piece) => {
    const text = decoder.decode(piece, { stream: piece !== undefined });
    return isJson ? plainJson(text) : lines(text);
  };
}

/** JSON text that says the same, with such characters as escapes. */
export function plainJson(json: string): string {
  const escaped = (character: string): string =>
    `\\u${character.charCodeAt(0).toString(16).padStart(4, '0')}`;
  return json.replace(/[\u007f-\u009f]/g, escaped).replace(directions, escaped);
}
