import { lazy, type ReactNode, Suspense } from "react";

const Opened = lazy(() => import("./Opened"));

export interface DialogProps {
  opened: boolean;
  close: () => void;
  title: string;
  size: "md" | "lg" | "xl";
  children: ReactNode;
}

/** A sheet over the page that holds the focus; what it is made of is fetched when the first one opens. */
export function Dialog(props: DialogProps) {
  return (
    props.opened && (
      <Suspense fallback={null}>
        <Opened {...props} />
      </Suspense>
    )
  );
}
