// Writes the types of the API, and the values of its lists, from its description: node client.mjs DESCRIPTION [FOLDER]
import { readFileSync, writeFileSync } from "node:fs";
import openapiTS, { astToString, COMMENT_HEADER } from "openapi-typescript";

const [description, folder = "src/api"] = process.argv.slice(2);
const made = astToString(await openapiTS(JSON.parse(readFileSync(description, "utf8")), { enumValues: true }));
const values = made.search(/^type FlattenedDeepRequired/m);
const types = 'import type { components, paths } from "./schema";\n';
writeFileSync(`${folder}/schema.d.ts`, COMMENT_HEADER + made.slice(0, values));
writeFileSync(`${folder}/values.ts`, `${COMMENT_HEADER}${types}\n${made.slice(values)}`);
