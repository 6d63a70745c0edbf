import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { chownSync, lstatSync, mkdirSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';

/** Whom PostgreSQL's processes run as. Absent: as anyone who started this. */
export interface Owner {
  readonly uid: number;
  readonly gid: number;
}

/** PostgreSQL refuses to run as root: then it runs as the system user `postgres`. */
export function clusterOwner(): Owner | undefined {
  if (process.getuid?.() !== 0) return undefined;
  const id = (flag: string): number =>
    Number(execFileSync('id', [flag, 'postgres'], { encoding: 'utf8' }).trim());
  return { uid: id('-u'), gid: id('-g') };
}

/**
 * The folder for a cluster: `wanted`, made and given to the owner; or, where the owner cannot
 * reach it (a project below /root), one below /var/tmp that is named after it.
 */
export function prepareFolder(wanted: string, owner: Owner | undefined): string {
  mkdirSync(dirname(wanted), { recursive: true });
  const reachable = owner === undefined || canReach(dirname(resolve(wanted)), owner);
  const hash = createHash('sha256').update(resolve(wanted)).digest('hex').slice(0, 12);
  const folder = reachable ? resolve(wanted) : join('/var/tmp', `ephoros-${hash}`);
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  if (owner !== undefined) {
    // A folder in /var/tmp may have been laid there by somebody else.
    const { uid } = lstatSync(folder);
    if (uid !== 0 && uid !== owner.uid) throw new Error(`${folder} belongs to somebody else`);
    chownSync(folder, owner.uid, owner.gid);
  }
  return folder;
}

function canReach(folder: string, { uid, gid }: Owner): boolean {
  try {
    execFileSync('test', ['-x', folder], { uid, gid, stdio: 'ignore' });
    return true;
  } catch {
    return false;
  }
}
