/** Links to a sheet as a file, in each of its formats. */
export function SheetFiles({ path }: { path: string }) {
  return (
    <span className="join" role="group" aria-label="The sheet as a file">
      {["PDF", "SVG", "DXF", "PNG"].map((f) => (
        <a
          key={f}
          className="btn join-item btn-xs"
          href={`/api/${path}/sheet?format=${f.toLowerCase()}`}
        >
          {f}
        </a>
      ))}
    </span>
  );
}
