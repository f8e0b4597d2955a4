import { Term } from "./Term";
import { GLOSSARY, type Word } from "./glossary";

const WORDS = Object.keys(GLOSSARY) as Word[];
/** Long ones first, whole words only; house words are left to the help. */
const PATTERN = new RegExp(
  `(?<![\\w-])(${WORDS.filter((word) => !["stone", "take", "loom", "working line"].includes(word))
    .sort((a, b) => b.length - a.length)
    .map((word) => word.replace(/[-[\]{}()*+?.,\\^$|]/g, "\\$&"))
    .join("|")})(?![\\w-])`,
  "i",
);

/** A text with the first word of the trade in it that a beginner may not know explaining itself. */
export function Explained({ text }: { text: string }) {
  const found = PATTERN.exec(text);
  const word = WORDS.find((one) => one.toLowerCase() === found?.[0].toLowerCase());
  if (!found || !word) return <>{text}</>;
  return (
    <>
      {text.slice(0, found.index)}
      <Term word={word}>{found[0]}</Term>
      {text.slice(found.index + found[0].length)}
    </>
  );
}
