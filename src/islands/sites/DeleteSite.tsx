import type { ShownError } from '../state/api';
import { Dialog } from '../ui/Dialog';
import { ErrorBox } from '../ui/parts';

/** Asks before a site goes with all that belongs to it. */
export default function DeleteSite(props: {
  readonly name: string;
  readonly error?: ShownError;
  onCancel(): void;
  onDelete(): void;
}) {
  return (
    <Dialog opened onClose={props.onCancel} title={`Delete ${props.name}?`} centered>
      <p>This deletes its sweeps, captures and findings. You cannot undo it. Your own files stay where they are.</p>
      {props.error && <ErrorBox error={props.error} />}
      <div className="between">
        <button className="button" onClick={props.onCancel}>
          Cancel
        </button>
        <button className="button solid" onClick={props.onDelete}>
          Delete
        </button>
      </div>
    </Dialog>
  );
}
