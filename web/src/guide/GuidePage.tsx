import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, Navigate, useLocation, useParams } from "react-router";

import { CRITERIA, FUSES, LOADS, PROGRAMMES } from "../shop/schools";
import { useShop } from "../shop/useShop";
import { Input } from "../ui/Input";
import { PartsNav } from "../ui/PartsNav";
import { Article } from "./Article";
import { PAGES } from "./pages";
import { useGlossary } from "./useGlossary";

const FILES = import.meta.glob<string>("../../../docs/guide/*.md", { query: "?raw", import: "default" });
const NAV = PAGES.map(([key, words]) => [`/guide/${key}`, words] as const);

/** The guide: what is done in which order, what is worked out how, and what the words mean. */
export function GuidePage() {
  const { page = "steps" } = useParams();
  const title = PAGES.find(([key]) => key === page)?.[1];
  useEffect(() => {
    document.title = `${title ?? "Guide"} · Under Hood`;
  }, [title]);
  if (!title) return <Navigate to="/guide/steps" replace />;
  return (
    <>
      <PartsNav label="Pages of the guide" parts={NAV} />
      <div className="mx-auto max-w-5xl px-8 py-5 max-md:px-4">
        {page === "glossary" ? <Glossary /> : <Read page={page} />}
      </div>
    </>
  );
}

function Read({ page }: { page: string }) {
  const text = useQuery({
    queryKey: ["guide", page],
    queryFn: async () => (await FILES[`../../../docs/guide/${page}.md`]?.()) ?? "",
    staleTime: Infinity,
  });
  if (text.data === undefined) return <p className="text-soft">Opening the guide …</p>;
  return (
    <>
      <Article text={text.data} />
      {page === "schools" && <Chosen />}
    </>
  );
}

/** What this workshop has chosen. */
function Chosen() {
  const shop = useShop();
  const wordsOf = (options: readonly (readonly [string, string])[], key: string) =>
    options.find(([each]) => each === key)?.[1] ?? key;
  const rows = [
    ["Output that counts", wordsOf(CRITERIA, shop.criterion)],
    ["Sized for", wordsOf(PROGRAMMES, shop.programme)],
    ["A fuse is for", wordsOf(FUSES, shop.fuse)],
    ["Watts on a job sheet", wordsOf(LOADS, shop.load)],
  ];
  return (
    <section aria-label="What this workshop chose">
      <h2 className="mt-7 mb-1 text-lg">What this workshop chose</h2>
      <dl className="grid max-w-md grid-cols-2 gap-y-1">
        {rows.map(([name, value]) => (
          <div key={name} className="contents">
            <dt className="text-soft">{name}</dt>
            <dd className="font-bold">{value}</dd>
          </div>
        ))}
      </dl>
      <Link className="mt-2 inline-block min-h-11 py-2.5 underline underline-offset-4" to="/shop">
        Choose otherwise
      </Link>
    </section>
  );
}

function Glossary() {
  const entries = useGlossary();
  const [asked, setAsked] = useState("");
  const { hash } = useLocation();
  useEffect(() => {
    if (entries && hash) document.getElementById(hash.slice(1))?.scrollIntoView({ block: "center" });
  }, [entries, hash]);
  const words = asked.trim().toLowerCase();
  return (
    <>
      <h1 className="mb-3 text-2xl font-bold">Glossary</h1>
      <label className="text-soft text-sm">
        Look for
        <Input
          className="mb-4 block w-64"
          type="search"
          value={asked}
          onChange={(event) => setAsked(event.target.value)}
        />
      </label>
      <dl>
        {entries
          ?.filter(({ word, meaning }) => `${word} ${meaning}`.toLowerCase().includes(words))
          .map(({ word, meaning, slug }) => (
            <div
              key={slug}
              id={slug}
              className="border-rule target:bg-sunk grid grid-cols-[13rem_minmax(0,1fr)] gap-4 border-b px-2 py-2 max-sm:grid-cols-1 max-sm:gap-0"
            >
              <dt className="font-bold">{word}</dt>
              <dd>{meaning}</dd>
            </div>
          ))}
      </dl>
    </>
  );
}
