import type { OpenGroup } from '@ephoros/client';

/** Which groups are open, kept from one source to the next. */
export class OpenGroups {
  private groups: readonly OpenGroup[];

  constructor(groups: readonly OpenGroup[]) {
    this.groups = groups;
  }

  get(): readonly OpenGroup[] {
    return this.groups;
  }

  keep(groups: readonly OpenGroup[]): void {
    this.groups = groups;
  }
}
