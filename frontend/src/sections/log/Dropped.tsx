import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState, type ReactNode } from "react";
import { currentHookup } from "../../parts/current";
import { useFileDrop } from "../../parts/useFileDrop";
import { useHookups } from "../bench/HookupMenu";
import { BringIn } from "../capture/BringIn";
import { bringing, inOrder } from "../capture/bringing";
import { Progress } from "../capture/Progress";
import { refreshed } from "../capture/useReport";

/** Recordings dropped on the log become takes, in their order; how far each is stands above the list. */
export function Dropped({ onShow, children }: { onShow: (take: number) => void; children: ReactNode }) {
  const [files, setFiles] = useState<File[]>([]);
  const client = useQueryClient();
  const first = useHookups().data?.entries[0]?.id;
  const drop = useFileDrop((list) => setFiles(inOrder(list)));
  useEffect(() => {
    const off = bringing.onTake(() => refreshed(client));
    return () => void off();
  }, [client]);
  const hookup = currentHookup.get() ?? first;
  return (
    <div className={`flex min-w-0 flex-col lg:min-h-0 lg:flex-1 ${drop.look}`} {...drop.on}>
      <Progress onShow={onShow} />
      {children}
      {files.length > 0 && hookup && <BringIn files={files} hookup={hookup} onClose={() => setFiles([])} />}
    </div>
  );
}
