import type { ReactNode } from "react";
import type { Band, Change, Ghost, Picture } from "../../../shared/api/client";
import type { StripFrame } from "../../../shared/chart/Strip";
import type { Handling } from "../../../shared/gesture/handling";
import type { LaneOrder } from "./lanes";

/** How what lies on the strips is changed: tried, kept, put back. */
export interface Edits {
  preview: (changes: Change[]) => void;
  commit: (changes: Change[]) => void;
  keepTried: () => void;
  putBack: () => void;
}

/** What any strip may draw from, and what may be done with it. */
export interface Stage {
  picture: Picture;
  ghost: Ghost | null;
  /** Lowest and highest over many seeds. */
  band: Band | null;
  zone: string;
  handling: Handling;
  edits: Edits;
  /** Metrics that are shown though no policy looks at them. */
  besides: string[];
  setBesides: (metrics: string[]) => void;
  lanes: LaneOrder;
  setLanes: (order: LaneOrder) => void;
  instance: number | null;
  setInstance: (instance: number) => void;
}

/** A kind of strip: the names of those that a picture has of it, and how one of them is drawn. */
export interface StripKind {
  names: (picture: Picture) => string[];
  draw: (name: string, stage: Stage, frame: StripFrame) => ReactNode;
}
