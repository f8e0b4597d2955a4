import { type ReactNode, createContext, useCallback, useContext, useMemo, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import { problemOf } from "../api/client";
import { useRefresh } from "../api/queries";
import { useKey } from "./keys";

interface Notice {
  id: number;
  kind: "done" | "problem";
  text: string;
  more: string;
  undo: (() => Promise<unknown>) | null;
}

interface Notices {
  /** Say that something was done; with `undo` it can be taken back for a while, and all is read anew then. */
  done: (text: string, undo?: () => Promise<unknown>) => void;
  /** Show what went wrong. */
  failed: (error: unknown) => void;
}

const NoticeContext = createContext<Notices | null>(null);

const SHOWN_MS = 12_000;
const BRIEF_MS = 3_000;

export function useNotices(): Notices {
  const notices = useContext(NoticeContext);
  if (!notices) throw new Error("useNotices needs NoticeBoard around it");
  return notices;
}

export function NoticeBoard({ children }: { children: ReactNode }) {
  const [shown, setShown] = useState<Notice[]>([]);
  const nextId = useRef(1);
  const refresh = useRefresh();

  const dismiss = useCallback((id: number) => {
    setShown((notices) => notices.filter((notice) => notice.id !== id));
  }, []);

  const add = useCallback(
    (notice: Omit<Notice, "id">) => {
      const id = nextId.current++;
      setShown((notices) => [...notices.slice(-1), { ...notice, id }]);
      window.setTimeout(() => dismiss(id), notice.kind === "problem" || notice.undo ? SHOWN_MS : BRIEF_MS);
    },
    [dismiss],
  );

  const notices = useMemo<Notices>(
    () => ({
      done: (text, undo) => add({ kind: "done", text, more: "", undo: undo ?? null }),
      failed: (error) => {
        const problem = problemOf(error);
        add({ kind: "problem", text: problem.detail, more: problem.kept, undo: null });
      },
    }),
    [add],
  );

  const undoable = shown.findLast((notice) => notice.undo);
  const takeBack = useCallback(
    (notice: Notice) => {
      dismiss(notice.id);
      notice.undo?.().then(
        () => {
          notices.done("Undone.");
          return refresh();
        },
        (error: unknown) => notices.failed(error),
      );
    },
    [dismiss, notices, refresh],
  );
  useKey("u", undoable ? () => takeBack(undoable) : null);

  return (
    <NoticeContext.Provider value={notices}>
      {children}
      <div className="notices" aria-live="polite" role="status">
        {shown.map((notice) => (
          <div key={notice.id} className={`notice notice-${notice.kind}`}>
            <span>
              {notice.text} {notice.more && <span className="notice-more">{notice.more}</span>}
            </span>
            {notice.undo && (
              <Button size="sm" variant="outline-primary" onClick={() => takeBack(notice)}>
                Undo {notice === undoable && <kbd>U</kbd>}
              </Button>
            )}
            <button type="button" className="notice-close" aria-label="Dismiss" onClick={() => dismiss(notice.id)}>
              ×
            </button>
          </div>
        ))}
      </div>
    </NoticeContext.Provider>
  );
}
