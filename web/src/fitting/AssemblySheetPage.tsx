import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { ask, client } from "../api/client";
import { Loading, PageTrouble } from "../controls/notices";
import { TickedSheet } from "../sheet/TickedSheet";

/** The name that the ticks on the sheet of an assembly are kept under. */
export const ticksOf = (assembly: number) => `ticks-assembly-${assembly}`;

/** Whose sheet an assembly is made after; null where it is made for no exercise. */
export function sheetOf({ issueId, exerciseId }: { issueId?: number; exerciseId?: number }) {
  if (issueId) return `issues/${issueId}`;
  return exerciseId ? `exercises/${exerciseId}` : null;
}

/** The sheets of an assembly's exercise in a window of their own. */
export function AssemblySheetPage() {
  const id = Number(useParams().id);
  const assembly = useQuery({
    queryKey: ["assembly", id, "row"],
    queryFn: () => ask(client.GET("/assemblies/{id}", { params: { path: { id } } })),
  });
  if (assembly.error)
    return <PageTrouble error={assembly.error} retry={() => void assembly.refetch()} />;
  if (!assembly.data) return <Loading what="the sheets" />;
  const of = sheetOf(assembly.data.row);
  return of ? (
    <TickedSheet store={ticksOf(id)} url={`/api/${of}/sheet`} />
  ) : (
    <p className="p-6">This assembly belongs to no exercise, so it has no sheet.</p>
  );
}
