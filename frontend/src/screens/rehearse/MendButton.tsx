import type { Change, PageSentence } from "../../shared/api/client";

type Mend = NonNullable<PageSentence["findings"][number]["mend"]>;

/** A mend as a button that makes its settings. */
export function MendButton({
  mend,
  lead = "",
  commit,
}: {
  mend: Mend;
  lead?: string;
  commit: (changes: Change[]) => void;
}) {
  const changes = Object.entries(mend.settings).map(([path, value]) => ({ op: "set" as const, path, value }));
  return (
    <button type="button" className="plain-button" onClick={() => commit(changes)}>
      {lead}
      {mend.text}
    </button>
  );
}
