/** Where a command writes and what it reads of its surroundings; tests put in their own. */
export interface Terminal {
  readonly stdout: Output;
  readonly stderr: Output;
  readonly environment: Readonly<Record<string, string | undefined>>;
}

interface Output {
  write(text: string | Uint8Array): unknown;
  /** Of a stream that may be full. */
  once?(event: 'drain', then: () => void): unknown;
  readonly isTTY?: boolean;
  readonly columns?: number;
}
