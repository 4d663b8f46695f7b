import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { keepSample } from "../api/appearance";
import type { Appearance } from "../api/client";
import { toast } from "../api/toast";
import { Button } from "../ui/controls";
import * as t from "../words/texts/drawer/KeepSample";

/** Puts an appearance on the shelf of all reviews, under a name of one's own. */
export function KeepSample({ appearance }: { appearance: Appearance }) {
  const cache = useQueryClient();
  const [name, setName] = useState<string>();
  const field = useRef<HTMLInputElement>(null);
  const asking = name !== undefined;
  useEffect(() => {
    if (asking) field.current?.select();
  }, [asking]);
  if (name === undefined)
    return (
      <Button look="text" className="self-start" onClick={() => setName(appearance.name)}>
        {t.keepAsASample}
      </Button>
    );
  const keep = async () => {
    try {
      await keepSample({ ...appearance, name: name.trim() });
      await cache.invalidateQueries({ queryKey: ["shelf"] });
      toast(t.isOnTheShelf(name.trim()));
      setName(undefined);
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (name.trim()) keep();
      }}
    >
      <input
        aria-label={t.nameOfTheSample}
        className="h-7 min-w-0 flex-1 rounded-md border border-rule-strong bg-white px-2"
        ref={field}
        maxLength={80}
        value={name}
        onChange={(event) => setName(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === "Escape") setName(undefined);
          event.stopPropagation();
        }}
      />
      <Button type="submit" disabled={!name.trim()}>
        {t.keep}
      </Button>
    </form>
  );
}
