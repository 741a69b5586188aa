import { Marked } from "marked";
import { Link, useParams } from "react-router";
import { Frame } from "../../parts/Frame";
import { NotHere } from "../NotHere";

const TEXTS = import.meta.glob<string>("../../../../docs/guide/*.md", {
  query: "?raw",
  import: "default",
  eager: true,
});
const PICTURES = import.meta.glob<string>("../../../../docs/screenshots/*.png", {
  query: "?url",
  import: "default",
  eager: true,
});

const nameOf = (path: string): string => path.replace(/^.*\//, "").replace(/\.\w+$/, "");
const pages = new Map(Object.entries(TEXTS).map(([path, text]) => [nameOf(path), text]));
const pictures = new Map(Object.entries(PICTURES).map(([path, url]) => [nameOf(path), url]));
const titleOf = (text: string): string => /^# (.*)$/m.exec(text)?.[1] ?? "";

/** The guide's own text: nothing that somebody typed comes into it. */
const marked = new Marked({
  renderer: {
    image: ({ href, text }) => {
      const url = pictures.get(nameOf(href));
      return url ? `<img src="${url}" alt="${text}" width="1280" height="800" loading="lazy">` : "";
    },
  },
});

/** A page of the guide, in plain words; the same text as in the documents of the program. Nobody need be signed in to read it. */
export function GuideScreen({ atTheDoor = false }: { atTheDoor?: boolean }) {
  const { page = "" } = useParams();
  const text = pages.get(page);
  if (atTheDoor) {
    return (
      <main>
        <header className="border-base-300 flex items-center gap-4 border-b px-4 py-2">
          <Link to="/" className="btn">
            To the door
          </Link>
          <h1 className="text-xl font-bold">{titleOf(text ?? "")}</h1>
        </header>
        <Page name={page} text={text ?? ""} />
      </main>
    );
  }
  if (text === undefined) return <NotHere />;
  return (
    <Frame title={titleOf(text)}>
      <Page name={page} text={text} />
    </Frame>
  );
}

function Page({ name: page, text }: { name: string; text: string }) {
  return (
    <div className="mx-auto grid max-w-6xl gap-8 p-4 lg:grid-cols-[14rem_minmax(0,1fr)]">
      <nav aria-label="guide" className="flex flex-col gap-1 max-lg:order-last">
        {[...pages].map(([name, each]) => (
          <Link
            key={name}
            className={`btn btn-ghost justify-start ${name === page ? "bg-base-300" : ""}`}
            to={`/guide/${name}`}
          >
            {titleOf(each)}
          </Link>
        ))}
      </nav>
      <article
        className="guide text-lg"
        // biome-ignore lint/security/noDangerouslySetInnerHtml: the text ships with the program
        dangerouslySetInnerHTML={{ __html: marked.parse(text.replace(/^# .*$/m, ""), { async: false }) }}
      />
    </div>
  );
}
