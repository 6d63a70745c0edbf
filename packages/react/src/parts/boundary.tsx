import { Component, type ReactElement, type ReactNode } from 'react';

interface BoundaryProps {
  readonly children: ReactNode;
  /** What stands in the place of what could not be drawn. */
  readonly instead: (error: Error, again: () => void) => ReactElement;
}

/** Keeps what goes wrong in drawing one part from taking the whole page with it. */
export class Boundary extends Component<BoundaryProps, { readonly error?: Error | undefined }> {
  override state: { readonly error?: Error | undefined } = {};

  static getDerivedStateFromError(thrown: unknown): { readonly error: Error } {
    return { error: thrown instanceof Error ? thrown : new Error(String(thrown)) };
  }

  private readonly again = (): void => this.setState({ error: undefined });

  override render(): ReactNode {
    const { error } = this.state;
    return error === undefined ? this.props.children : this.props.instead(error, this.again);
  }
}
