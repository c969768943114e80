import type { ShownError } from '../state/api';
import { Dialog } from './Dialog';
import { ErrorBox } from './parts';

/** Asks before something goes that nobody can bring back. It brings the styles of dialogs along: import it lazily. */
export default function AskDelete(props: {
  /** What goes, as a title names it. */
  readonly name: string;
  /** What goes with it, and what stays. */
  readonly says: string;
  readonly error?: ShownError;
  onCancel(): void;
  onDelete(): void;
}) {
  return (
    <Dialog opened onClose={props.onCancel} title={`Delete ${props.name}?`} centered>
      <p>{props.says}</p>
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
