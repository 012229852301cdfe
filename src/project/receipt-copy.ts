import type { Bundle } from '../core/contract/contract.js';
import { within } from '../core/files/within.js';
import { Failure } from '../core/findings/failure.js';
import type { Project } from './open.js';
import type { BuildRecord } from './record.js';

/** A copy of a receipt for another machine. A receipt has no value and no key; `docs/security.md` lists what it shows. */
export class ReceiptCopy {
  /** @param path absolute path @param named path as the user wrote it */
  constructor(
    readonly path: string,
    readonly named: string,
  ) {}

  /** Checks before a build that the copy can be written after it. @throws Failure */
  assertUsable({ files, root }: Pick<Project, 'files' | 'root'>, bundle: Bundle | undefined): void {
    if (files.stat(this.path)?.isDirectory())
      throw new Failure(`--receipt ${this.named} is a directory`, `name a file: --receipt ${this.named}/receipt.json`);
    if (bundle && within(bundle.output)(files.shown(this.path, root)))
      throw new Failure(
        `--receipt ${this.named} is in the output of ${bundle.name}, so it would ship`,
        'name a file outside the output',
      );
  }

  /** @throws Failure if the build has no receipt */
  write({ files, root }: Pick<Project, 'files' | 'root'>, record: BuildRecord): void {
    if (!('receiptPath' in record))
      throw new Failure(`${this.named} has nothing to say: ${record.withoutReceipt}`, 'build without --receipt');
    files.write(this.path, files.read(files.path.resolve(root, record.receiptPath)), { root });
  }
}
