import type { ReactNode } from "react";
import type { Change, Offer } from "../api/client";
import its from "./offers.module.css";

interface Props {
  offers: Offer[];
  /** What begins the row, where the buttons need it. */
  lead?: string;
  take: (changes: Change[]) => void;
  children?: ReactNode;
}

/** What can be added or taken away, as a row of buttons. */
export function Offers({ offers, lead, take, children }: Props) {
  if (offers.length === 0) return null;
  return (
    <p className={its.offers}>
      {lead}
      {offers.map((offer) => (
        <button key={offer.text} type="button" className="plain-button" onClick={() => take(offer.changes)}>
          {offer.text}
        </button>
      ))}
      {children}
    </p>
  );
}
