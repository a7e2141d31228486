import type { ReactNode } from "react";
import its from "./live.module.css";

interface Props {
  /** What is lost, in words. */
  children: ReactNode;
  act: string;
  on: () => void;
  /** The same in another way. */
  or?: { act: string; on: () => void };
  leave: () => void;
}

/** Says what an act would lose, before it is done. */
export function Asking({ children, act, on, or, leave }: Props) {
  return (
    <p className={its.asked} role="alert">
      {children}
      <button type="button" className="solid-button" onClick={on}>
        {act}
      </button>
      {or && (
        <button type="button" className="plain-button" onClick={or.on}>
          {or.act}
        </button>
      )}
      <button type="button" className="plain-button" onClick={leave}>
        leave it
      </button>
    </p>
  );
}
