import { defineConfig } from "vitest/config";

/** Pure logic, without a page: what the browser draws is looked at by the browser's own tests. */
export default defineConfig({ test: { include: ["tests/*.test.ts"], environment: "node" } });
