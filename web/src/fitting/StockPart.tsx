import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Schemas, ask, client } from "../api/client";

/** Chooses a standard part by its kind, its size and its length. */
export function StockPart({
  busy,
  put,
}: {
  busy: boolean;
  put: (stock: NonNullable<Schemas["NewPart"]["stock"]>) => void;
}) {
  const kinds = useQuery({
    queryKey: ["stock"],
    queryFn: () => ask(client.GET("/stock")),
    staleTime: Infinity,
  }).data;
  const [name, setName] = useState("");
  const [size, setSize] = useState("");
  const [length, setLength] = useState("30");
  const kind = kinds?.find((k) => k.name === name) ?? kinds?.[0];
  if (!kind) return null;
  const chosen = kind.sizes.includes(size) ? size : (kind.sizes[0] ?? "");
  const long = Number(length);
  return (
    <form
      className="flex flex-wrap items-center gap-2"
      aria-label="Standard part"
      onSubmit={(e) => {
        e.preventDefault();
        put({ kind: kind.name, size: chosen, ...(kind.long ? { length: long } : {}) });
      }}
    >
      <select
        className="select select-sm w-52"
        aria-label="Kind of standard part"
        value={kind.name}
        onChange={(e) => setName(e.target.value)}
      >
        {kinds?.map((k) => (
          <option key={k.name} value={k.name}>
            {k.name}, {k.standard}
          </option>
        ))}
      </select>
      <select
        className="select select-sm w-24"
        aria-label="Size"
        value={chosen}
        onChange={(e) => setSize(e.target.value)}
      >
        {kind.sizes.map((s) => (
          <option key={s}>{s}</option>
        ))}
      </select>
      {kind.long && (
        <label className="flex items-center gap-1">
          Length, mm
          <input
            className="input input-sm w-20"
            inputMode="decimal"
            value={length}
            onChange={(e) => setLength(e.target.value)}
          />
        </label>
      )}
      <button type="submit" className="btn btn-sm" disabled={busy || (kind.long && !(long > 0))}>
        Put in this one
      </button>
    </form>
  );
}
