import { type Rooted, STATE_FOLDER } from '../host/state.js';

/** The file of the last trial of a bundle for a stage. */
export function keptTrialPath({ files, root }: Rooted, { stage, bundle }: { stage: string; bundle: string }): string {
  return files.path.join(root, STATE_FOLDER, 'trials', `${bundle}.${stage}.json`);
}

/** The file of the last gate of a stage. */
export function keptGatePath({ files, root }: Rooted, stage: string): string {
  return files.path.join(root, STATE_FOLDER, 'gates', `${stage}.json`);
}
