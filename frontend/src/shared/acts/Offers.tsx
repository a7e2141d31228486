import { type ReactNode, useState } from "react";
import type { Change, Offer } from "../api/client";
import its from "./offers.module.css";

interface Props {
  offers: Offer[];
  /** What begins the row, where the buttons need it. */
  lead?: string;
  take: (changes: Change[]) => void;
  /** Why what an offer says would be refused, by its text. */
  refused?: Record<string, string>;
  children?: ReactNode;
}

/** What can be added or taken away, as a row of buttons. */
export function Offers({ offers, lead, take, refused, children }: Props) {
  if (offers.length === 0) return null;
  return (
    <p className={its.offers}>
      {lead}
      {offers.map((offer) => (
        <OfferButton key={offer.text} offer={offer} take={take} why={refused?.[offer.text]} />
      ))}
      {children}
    </p>
  );
}

interface ButtonProps {
  offer: Offer;
  take: (changes: Change[]) => void;
  why: string | undefined;
}

/** A button for an offer; one that would be refused is grey, and says why instead. */
export function OfferButton({ offer, take, why }: ButtonProps) {
  const [asked, setAsked] = useState(false);
  return (
    <>
      <button
        type="button"
        className={why ? `plain-button ${its.refused}` : "plain-button"}
        aria-disabled={why !== undefined}
        title={why}
        onClick={() => (why ? setAsked(!asked) : take(offer.changes))}
      >
        {offer.text}
      </button>
      {why && asked && <output className={its.why}>{why}</output>}
    </>
  );
}
