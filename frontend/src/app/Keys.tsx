import { Dialog } from "../shared/dialog/Dialog";

const KEYS = [
  ["Ctrl K", "find a group, a setting or a strip, or do something"],
  ["?", "this list"],
  ["Tab", "walk over words, thresholds, strips and takes"],
  ["↑ ↓", "step the word or the threshold that has the focus"],
  ["Enter", "keep what is being tried as a take; on the strips, explain the moment"],
  ["Esc", "put it back; close the moment"],
  ["← →", "on the strips: from decision to decision, or along the week"],
  ["+ −", "on the strips: nearer and farther"],
  ["Ctrl Z", "undo: to the take that this one came from"],
  ["Ctrl Shift Z", "redo"],
] as const;

/** What the keyboard does. */
export function Keys({ close }: { close: () => void }) {
  return (
    <Dialog opened close={close} title="Keys" size="md">
      <table className="keys">
        <tbody>
          {KEYS.map(([key, text]) => (
            <tr key={key}>
              <th scope="row">
                <kbd>{key}</kbd>
              </th>
              <td>{text}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Dialog>
  );
}
