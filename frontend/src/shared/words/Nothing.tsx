import type { ReactNode } from "react";
import its from "./nothing.module.css";

/** A screen that has nothing to show yet: what it is for, and how it begins. */
export function Nothing({ title, children }: { title: string; children: ReactNode }) {
  return (
    <main className={its.nothing}>
      <h1>{title}</h1>
      {children}
    </main>
  );
}
