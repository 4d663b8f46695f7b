import { Link } from "wouter";
import * as t from "../words/texts/ui/PageProblem";

/** In place of a page that cannot be shown: why, and the way home. */
export function PageProblem({ words }: { words: string }) {
  return (
    <div className="grid h-full place-items-center">
      <div className="text-center">
        <p className="mb-3 text-[15px]">{words}</p>
        <Link href="/" className="text-mark underline">
          {t.allReviews}
        </Link>
      </div>
    </div>
  );
}
