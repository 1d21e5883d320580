// The line across the top: where one is, the five stages, what is running.
import { BookOpen, Moon, Sun } from 'lucide-react';
import { useEffect, type ReactNode } from 'react';
import { Link, NavLink, useLocation } from 'react-router';
import styled from 'styled-components';
import { chapterFor, guidePath } from '../guide/read';
import { useJobs } from '../data/queries/jobs';
import { choose, useAppearance } from './appearance';
import { Bar, Plain } from '../parts/ui';
import { timeLeft } from '../parts/Job';

const Line = styled.header`
  height: 46px;
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto minmax(max-content, 1fr);
  align-items: center;
  gap: 16px;
  padding: 0 16px;
  border-bottom: 1px solid ${({ theme }) => theme.line};
  background: ${({ theme }) => theme.ground};
`;
const Where = styled.nav`
  display: flex;
  align-items: baseline;
  gap: 10px;
  min-width: 0;
  white-space: nowrap;
  overflow: hidden;
  > a:first-child {
    font: italic 600 21px/1 ${({ theme }) => theme.serif};
    text-decoration: none;
    margin-right: 8px;
  }
  a {
    text-decoration: none;
    color: ${({ theme }) => theme.quiet};
    overflow: hidden;
    text-overflow: ellipsis;
  }
  > a:first-child {
    flex: none;
  }
  a:hover {
    color: ${({ theme }) => theme.text};
  }
  /* the shot is told before the production */
  h1 {
    flex: 0 0 auto;
    max-width: 60%;
    font-weight: 600;
    font-size: inherit;
    overflow: hidden;
    text-overflow: ellipsis;
  }
`;
const Stages = styled.nav`
  display: flex;
  gap: 4px;
  a {
    font: 16px/1 ${({ theme }) => theme.serif};
    text-decoration: none;
    padding: 6px 14px 7px;
    border-radius: 14px;
    color: ${({ theme }) => theme.text};
  }
  a:hover {
    background: ${({ theme }) => theme.raised};
  }
  a.active {
    background: ${({ theme }) => theme.thorn};
    color: ${({ theme }) => theme.onThorn};
  }
`;
const Right = styled.div`
  display: flex;
  justify-content: flex-end;
  align-items: center;
  gap: 12px;
  color: ${({ theme }) => theme.quiet};
  white-space: nowrap;
  a {
    text-decoration: none;
    display: flex;
    align-items: center;
    gap: 10px;
  }
  a:hover {
    color: ${({ theme }) => theme.text};
  }
`;

/** The guide, at the chapter of where one is; in a tab of its own, so that the run goes on. */
function GuideLink(): ReactNode {
  const { pathname } = useLocation();
  return (
    <a href={guidePath(chapterFor(pathname))} target="_blank" rel="noopener" aria-label="Guide" title="Guide">
      <BookOpen size={15} />
    </a>
  );
}

function Appearance(): ReactNode {
  const appearance = useAppearance((s) => s.appearance);
  const other = appearance === 'dark' ? 'light' : 'dark';
  return (
    <Plain aria-label={`Make the page ${other}`} onPress={() => choose(other)}>
      {other === 'light' ? <Sun size={15} /> : <Moon size={15} />}
    </Plain>
  );
}

export function TopBar({
  crumbs,
  stages,
  tools,
}: {
  crumbs: readonly { label: string; to?: string }[];
  stages?: ReactNode;
  tools?: ReactNode;
}): ReactNode {
  const jobs = useJobs();
  const running = jobs.data?.find((j) => j.state === 'running');
  const waiting = jobs.data?.filter((j) => j.state === 'queued').length ?? 0;
  useEffect(() => {
    const what = crumbs[crumbs.length - 1]?.label;
    document.title = `${
      running ? `${Math.round((100 * running.done) / Math.max(1, running.total))} ` + '% · ' : ''
    }${what ? `${what} · ` : ''}Bramblemist`;
  }, [crumbs, running]);
  return (
    <Line>
      <Where aria-label="Where you are">
        <Link to="/board">bramblemist</Link>
        {crumbs.map((c, n) => (
          <span key={n} style={{ display: 'contents' }}>
            {n > 0 && <span aria-hidden>/</span>}
            {c.to ? <Link to={c.to}>{c.label}</Link> : <h1>{c.label}</h1>}
          </span>
        ))}
      </Where>
      {stages ? <Stages aria-label="Stages">{stages}</Stages> : <span />}
      <Right>
        {tools}
        <NavLink to="/queue">
          {running ? (
            <>
              <Bar $part={running.done / Math.max(1, running.total)} style={{ width: 40 }} />
              <span title={waiting > 0 ? `${waiting} waiting` : undefined}>
                {running.kind} {running.targetId}
                {timeLeft(running) && ` · ${timeLeft(running)}`}
              </span>
            </>
          ) : (
            'Queue'
          )}
        </NavLink>
        <NavLink to="/storage">Storage</NavLink>
        <GuideLink />
        <Appearance />
      </Right>
    </Line>
  );
}
