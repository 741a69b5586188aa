import { queryOptions } from "@tanstack/react-query";
import { type Along, findAlong } from "../core/along";
import { kept, keptAnswer, otherwise } from "../core/kept";
import { readMe } from "../core/me";
import { readJob, readNow, readPaper, readSheet } from "../core/readNow";
import { tabletCore } from "../core/tabletCore";
import { api, ask, type Schemas } from "./client";

export const signInQuery = queryOptions({
  queryKey: ["sign-in"],
  queryFn: () => kept("sign-in", () => ask(api.GET("/api/sign-in"))),
});

export const meQuery = queryOptions({
  queryKey: ["me"],
  queryFn: readMe,
  retry: false,
});

export const dashboardQuery = queryOptions({
  queryKey: ["dashboard"],
  queryFn: () => kept("dashboard", () => ask(api.GET("/api/dashboard"))),
  refetchInterval: 15_000,
});

/** What is typed, the machine that was picked, the facets that were tapped. */
export type Asking = { asked: string; machine: string | null; narrow: Record<string, string> };

const asQuery = ({ asked, machine, narrow }: Asking) => ({
  asked,
  ...(machine ? { machine } : {}),
  ...narrow,
  ...(narrow.year ? { year: Number(narrow.year) } : {}),
});

export const findQuery = (asking: Asking) =>
  queryOptions({
    queryKey: ["find", asking],
    queryFn: ({ signal }) =>
      otherwise(
        () => ask(api.GET("/api/find", { params: { query: asQuery(asking) }, signal })),
        () => findAlong(asking.asked, asking.machine),
      ),
    placeholderData: (before) => before,
  });

export const facetsQuery = (asking: Asking) =>
  queryOptions({
    queryKey: ["facets", asking],
    queryFn: ({ signal }) => ask(api.GET("/api/facets", { params: { query: asQuery(asking) }, signal })),
    placeholderData: (before) => before,
  });

export const modelQuery = (maker: string, model: string) =>
  queryOptions({
    queryKey: ["model", maker, model],
    queryFn: () => ask(api.GET("/api/models", { params: { query: { maker, model } } })),
  });

export const importQuery = (id: string | null) =>
  queryOptions({
    queryKey: ["import", id],
    queryFn: () => ask(api.GET("/api/spec-files/imports/{import_id}", { params: { path: { import_id: id ?? "" } } })),
    enabled: id !== null,
    refetchInterval: (query) => (["judging", "writing"].includes(query.state.data?.state ?? "judging") ? 400 : false),
    retry: false,
  });

export const rowsQuery = (id: string) =>
  queryOptions({
    queryKey: ["spec", id, "rows"],
    queryFn: () => ask(api.GET("/api/specs/{spec_id}/rows", { params: { path: { spec_id: id } } })),
    enabled: id !== "",
    staleTime: Number.POSITIVE_INFINITY,
  });

export const readingQuery = (wrench: string, unit: Schemas["Wrench"]["unit"], line: string, thimble: string) =>
  queryOptions({
    queryKey: ["reading", wrench, unit, line, thimble],
    queryFn: () =>
      ask(
        api.GET("/api/wrenches/{wrench_id}/reading", {
          params: { path: { wrench_id: wrench }, query: { unit, line: Number(line), thimble: Number(thimble) } },
        }),
      ),
    retry: false,
  });

export const toolsQuery = queryOptions({
  queryKey: ["tools"],
  queryFn: () => kept("tools", () => ask(api.GET("/api/tools"))),
});

export const columnsQuery = queryOptions({
  queryKey: ["columns"],
  queryFn: () => ask(api.GET("/api/spec-files/columns")),
  staleTime: Number.POSITIVE_INFINITY,
});

export const previewQuery = (rows: Record<string, string>[]) =>
  queryOptions({
    queryKey: ["preview", rows],
    queryFn: ({ signal }) => ask(api.POST("/api/specs/preview", { body: { rows }, signal })),
    placeholderData: (before) => before,
    retry: false,
  });

export const machineQuery = (id: string) =>
  queryOptions({
    queryKey: ["machine", id],
    queryFn: () =>
      kept(`machine/${id}`, () => ask(api.GET("/api/machines/{machine_id}", { params: { path: { machine_id: id } } }))),
  });

/** The machine's open job, as the server says. */
export const jobQuery = (machine: string) =>
  queryOptions({ queryKey: ["job", machine, "told"], queryFn: () => readJob(machine), refetchInterval: 2_000 });

/** The same by the tablet's own core, with what is not sent yet, where it holds all its runs. */
export const jobHereQuery = (machine: string, runs: readonly string[], device: string) =>
  queryOptions({
    queryKey: ["job", machine, "here", runs],
    queryFn: () => tabletCore.job(runs, device),
    placeholderData: (before: Schemas["JobNow"] | undefined) => before,
  });

/** Notices that reach a run; or those that reach one machine. */
export const noticesQuery = (machine: string | null) =>
  queryOptions({
    queryKey: ["notices", machine],
    queryFn: () =>
      kept(`notices/${machine ?? ""}`, () =>
        ask(api.GET("/api/notices", { params: { query: machine ? { machine } : {} } })),
      ),
    refetchInterval: 15_000,
  });

export const weekQuery = (day: string | null) =>
  queryOptions({
    queryKey: ["week", day],
    queryFn: () =>
      kept(`week/${day ?? ""}`, () => ask(api.GET("/api/week", { params: { query: day ? { day } : {} } }))),
    placeholderData: (before) => before,
  });

export const followupQuery = (root: string, name: string) =>
  queryOptions({
    queryKey: ["followup", root, name],
    queryFn: () => ask(api.GET("/api/followups/{root}/{name}", { params: { path: { root, name } } })),
    retry: false,
  });

export const machinesQuery = queryOptions({
  queryKey: ["machines"],
  queryFn: () => kept("machines", () => ask(api.GET("/api/machines"))),
});

export const specQuery = (id: string, revision: string | null = null) =>
  queryOptions({
    queryKey: ["spec", id, revision],
    queryFn: () =>
      kept(revision ? `spec/${id}/${revision}` : `spec/${id}`, () =>
        ask(
          api.GET("/api/specs/{spec_id}", {
            params: { path: { spec_id: id }, query: revision ? { revision: Number(revision) } : {} },
          }),
        ),
      ),
  });

export const historyQuery = (id: string) =>
  queryOptions({
    queryKey: ["spec", id, "history"],
    queryFn: () => ask(api.GET("/api/specs/{spec_id}/history", { params: { path: { spec_id: id } } })),
  });

export const compareQuery = (id: string, older: number, newer: number) =>
  queryOptions({
    queryKey: ["spec", id, "compare", older, newer],
    queryFn: () =>
      ask(
        api.GET("/api/specs/{spec_id}/compare", {
          params: { path: { spec_id: id }, query: { old: older, new: newer } },
        }),
      ),
  });

export const offerQuery = (spec: string, body: Schemas["Asked"]) =>
  queryOptions({
    queryKey: ["offer", spec, body],
    queryFn: ({ signal }) =>
      otherwise(
        () => ask(api.POST("/api/specs/{spec_id}/tooling", { params: { path: { spec_id: spec } }, body, signal })),
        () => tabletCore.offer(spec, body),
      ),
    placeholderData: (before) => before,
    retry: false,
  });

export const toolQuery = (id: string) =>
  queryOptions({
    queryKey: ["tool", id],
    queryFn: () =>
      kept(`tool/${id}`, () => ask(api.GET("/api/tools/{tool_id}", { params: { path: { tool_id: id } } }))),
  });

export const choicesQuery = queryOptions({
  queryKey: ["choices"],
  queryFn: () => ask(api.GET("/api/shop/choices")),
});

export const toolFormsQuery = queryOptions({
  queryKey: ["tool-forms"],
  queryFn: () => ask(api.GET("/api/tools/forms")),
  staleTime: Number.POSITIVE_INFINITY,
});

export const tonightQuery = queryOptions({
  queryKey: ["tonight"],
  queryFn: () => kept("tonight", () => ask(api.GET("/api/tools/tonight"))),
  refetchInterval: 60_000,
});

/** What is known of the runs that are looked for; what is left out is not asked for. */
export const recordsQuery = (asked: Record<string, string>) =>
  queryOptions({
    queryKey: ["records", asked],
    queryFn: ({ signal }) => ask(api.GET("/api/records", { params: { query: asked }, signal })),
    placeholderData: (before) => before,
    retry: false,
  });

export const proofQuery = queryOptions({
  queryKey: ["proof"],
  queryFn: () => ask(api.GET("/api/proof")),
});

export const holdsQuery = queryOptions({
  queryKey: ["holds"],
  queryFn: () => ask(api.GET("/api/holds")),
});

const run = (id: string) => ({ params: { path: { run_id: id } } });

export const sheetQuery = (id: string) =>
  queryOptions({
    queryKey: ["run", id, "sheet"],
    queryFn: () => readSheet(id),
    staleTime: 60_000,
  });

export const nowQuery = (id: string) =>
  queryOptions({
    queryKey: ["run", id, "now"],
    queryFn: () => readNow(id),
    refetchInterval: 3_000,
  });

export const alongQuery = queryOptions({
  queryKey: ["along"],
  queryFn: async () => (await keptAnswer<Along>("taken")) ?? null,
  refetchInterval: 2_000,
});

/** `held`: whether the tablet holds the run; then it says itself how the run stands. */
export const paperQuery = (id: string, held: boolean) =>
  queryOptions({ queryKey: ["run", id, "paper", held], queryFn: () => readPaper(id) });

export const entriesQuery = (id: string) =>
  queryOptions({
    queryKey: ["run", id, "entries"],
    queryFn: () => ask(api.GET("/api/runs/{run_id}/entries", run(id))),
  });

export const curvesQuery = (id: string) =>
  queryOptions({
    queryKey: ["run", id, "curves"],
    queryFn: () => ask(api.GET("/api/runs/{run_id}/curves", run(id))),
  });

export const cardQuery = (id: string) =>
  queryOptions({
    queryKey: ["run", id, "card"],
    queryFn: () => ask(api.GET("/api/runs/{run_id}/card", run(id))),
  });

export const sessionsQuery = queryOptions({
  queryKey: ["sessions"],
  queryFn: () => ask(api.GET("/api/sessions")),
});

export const tabletsQuery = queryOptions({ queryKey: ["tablets"], queryFn: () => ask(api.GET("/api/tablets")) });

export const rightsQuery = queryOptions({
  queryKey: ["rights"],
  queryFn: () => ask(api.GET("/api/rights")),
  staleTime: Number.POSITIVE_INFINITY,
});

export const instrumentsQuery = queryOptions({
  queryKey: ["instruments"],
  queryFn: () => ask(api.GET("/api/instruments")),
});

export const estimateChoicesQuery = queryOptions({
  queryKey: ["estimate", "choices"],
  queryFn: () => ask(api.GET("/api/estimate/choices")),
  staleTime: Number.POSITIVE_INFINITY,
});

export const estimateQuery = (thread: string, property_class: string, condition: string) =>
  queryOptions({
    queryKey: ["estimate", thread, property_class, condition],
    queryFn: () => ask(api.GET("/api/estimate", { params: { query: { thread, property_class, condition } } })),
    retry: false,
  });

export const scaleProofQuery = (draft: Schemas["Wrench"] | null) =>
  queryOptions({
    queryKey: ["scale", draft],
    queryFn: () => ask(api.POST("/api/tools/scale", { body: draft as Schemas["Wrench"] })),
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: (before: Schemas["ScaleProof"] | undefined) => before,
  });

/** What is read again after a change to … */
export const touched = {
  machines: [["machines"], ["machine"], ["dashboard"], ["find"], ["facets"]],
  specs: [["spec"], ["find"], ["facets"], ["model"], ["dashboard"], ["machine"]],
  tools: [["tools"], ["tool"], ["tonight"], ["offer"], ["dashboard"]],
  people: [["sign-in"], ["sessions"]],
  me: [["me"], ["sessions"]],
  shop: [["choices"], ["offer"], ["sign-in"], ["spec"], ["tool-forms"], ["dashboard"], ["week"]],
  instruments: [["instruments"]],
  tablets: [["tablets"]],
  run: (id: string) => [["run", id], ["dashboard"], ["machine"], ["tonight"]],
};

/** What the tablet's own core works out; the other pages need the server. */
const ON_TABLET = ["bolt", "reuse", "wheel", "wrench"];

/** A page of the lab as its knobs stand; by the tablet's own core where it can. */
export const labQuery = (page: string, asked: Schemas["LabAsked"], here: boolean) =>
  queryOptions({
    queryKey: ["lab", page, asked, here],
    queryFn: ({ signal }) =>
      here && ON_TABLET.includes(page)
        ? tabletCore.lab(page, asked.values ?? {})
        : ask(api.POST("/api/lab/{page}", { params: { path: { page } }, body: asked, signal })),
    gcTime: 60_000,
  });

/** One's own practice. */
export const practiceQuery = queryOptions({ queryKey: ["practice"], queryFn: () => ask(api.GET("/api/practice")) });

/** Which drills each person passed, and when; for a lead. */
export const trainedQuery = queryOptions({
  queryKey: ["practice", "people"],
  queryFn: () => ask(api.GET("/api/practice/people")),
});

/** A drill after some answers. */
export const drillQuery = (drill: string, tried: Schemas["DrillTried"]) =>
  queryOptions({
    queryKey: ["drill", drill, tried],
    queryFn: ({ signal }) =>
      ask(api.POST("/api/practice/{drill}", { params: { path: { drill } }, body: tried, signal })),
    gcTime: 0,
  });
