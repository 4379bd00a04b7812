import Markdown, { type Components } from "react-markdown";
import { Link } from "react-router";
import slug from "rehype-slug";
import gfm from "remark-gfm";

import { Scroller } from "../ui/Scroller";
import { Symbols } from "../ui/Symbols";
import { insideOf } from "./pages";

const PICTURES = import.meta.glob<string>(
  "../../../docs/screenshots/{bench-readings,bench-curves,job-load,job-draw,job-supply,job-cable,job-plan,set-up-sheet,job-proof}.png",
  { eager: true, query: "?url", import: "default" },
);

/** How a page of the guide is set: in the interface's own tables, links and cautions. */
const COMPONENTS: Components = {
  h1: ({ children }) => <h1 className="mb-3 text-2xl font-bold">{children}</h1>,
  h2: ({ children, id }) => (
    <h2 id={id} className="mt-7 mb-1 text-lg">
      {children}
    </h2>
  ),
  p: ({ children }) => <p className="my-2 max-w-prose">{children}</p>,
  ul: ({ children }) => <ul className="my-2 max-w-prose list-disc space-y-1.5 pl-5">{children}</ul>,
  ol: ({ children }) => <ol className="my-2 max-w-prose list-decimal space-y-1.5 pl-6">{children}</ol>,
  blockquote: ({ children }) => (
    <blockquote className="border-ochre my-3 max-w-prose border-l-4 pl-3 text-sm">{children}</blockquote>
  ),
  table: ({ children }) => (
    <Scroller label="A table, to scroll">
      <table className="[&_td]:border-rule my-2 w-full min-w-[40rem] text-sm [&_td]:border-b [&_td]:py-2 [&_td]:pr-4 [&_td]:align-top [&_th]:pr-4 [&_th]:text-left">
        {children}
      </table>
    </Scroller>
  ),
  td: ({ children }) => <td>{typeof children === "string" ? <Symbols>{children}</Symbols> : children}</td>,
  a: ({ href = "", children }) => {
    const to = insideOf(href);
    return to ? (
      <Link className="-my-3 inline-block py-3 underline underline-offset-4" to={to}>
        {children}
      </Link>
    ) : (
      <span>{children}</span>
    );
  },
  img: ({ src = "", alt }) => (
    <img
      className="border-rule my-3 h-auto w-full max-w-3xl border"
      src={PICTURES[`../../../docs/screenshots/${String(src).split("/").at(-1)}`]}
      alt={alt}
      width={1280}
      height={800}
      loading="lazy"
    />
  ),
};

/** A page written in Markdown. */
export function Article({ text }: { text: string }) {
  return (
    <article>
      <Markdown remarkPlugins={[gfm]} rehypePlugins={[slug]} components={COMPONENTS}>
        {text}
      </Markdown>
    </article>
  );
}
