import { QueryObserver } from "@tanstack/react-query";
import { expect, test } from "vitest";

import { Answers } from "../src/api/cache";

test("an answer on its way from before a change is not shown after it", async () => {
  const client = new Answers();
  const answers: ((value: string) => void)[] = [];
  const observer = new QueryObserver(client, {
    queryKey: ["list"],
    queryFn: () => new Promise<string>((answer) => answers.push(answer)),
  });
  const shown: (string | undefined)[] = [];
  const leave = observer.subscribe((result) => shown.push(result.data));

  const again = client.invalidateQueries({ queryKey: ["list"] });
  answers[0]?.("before");
  await expect.poll(() => answers.length).toBe(2);
  answers[1]?.("after");
  await again;
  expect(client.getQueryData(["list"])).toBe("after");
  expect(shown).not.toContain("before");
  leave();
});
