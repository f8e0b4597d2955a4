import { type ReactNode, useId } from "react";
import { GLOSSARY, type Word } from "./glossary";

/** A word that explains itself to whoever points at it or comes to it by Tab. */
export function Term({ word, children }: { word: Word; children?: ReactNode }) {
  const id = useId();
  return (
    <span className="term" tabIndex={0} aria-describedby={id}>
      {children ?? word}
      <span className="term-tip" role="tooltip" id={id}>
        {GLOSSARY[word]}
      </span>
    </span>
  );
}
