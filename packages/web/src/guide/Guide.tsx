// The guide in the application: its chapters at the left, the one that is read beside them.
import { useEffect, useRef, type ReactNode } from 'react';
import Markdown, { type Components } from 'react-markdown';
import { Link, Navigate, NavLink, useNavigate, useParams } from 'react-router';
import remarkGfm from 'remark-gfm';
import styled from 'styled-components';
import { TopBar } from '../app/TopBar';
import { useBoard } from '../data/queries/board';
import { Plain, Quiet } from '../parts/ui';
import { startTour } from '../tour/tour';
import { guidePath } from './read';
import { GUIDE } from './text';

const PICTURES = import.meta.glob<string>('../../../../docs/screenshots/*.png', {
  eager: true,
  query: '?url',
  import: 'default',
});

const Page = styled.div`
  height: calc(100% - 46px);
  display: grid;
  grid-template-columns: 220px minmax(0, 1fr);
  nav {
    overflow: auto;
    padding: 20px 16px;
    border-right: 1px solid ${({ theme }) => theme.line};
    background: ${({ theme }) => theme.panel};
  }
  nav a {
    display: block;
    padding: 4px 10px;
    border-radius: 12px;
    text-decoration: none;
    color: ${({ theme }) => theme.quiet};
  }
  nav a:hover {
    color: ${({ theme }) => theme.text};
  }
  nav a.active {
    background: ${({ theme }) => theme.thorn};
    color: ${({ theme }) => theme.onThorn};
  }
  main {
    overflow: auto;
    padding: 24px 32px 40px;
  }
`;
const Tour = styled(Plain)`
  margin: 14px 0 0 10px;
`;
const Text = styled.article`
  max-width: 76ch;
  font: 15px/1.6 ${({ theme }) => theme.sans};
  h1 {
    font: italic 30px/1.2 ${({ theme }) => theme.serif};
    margin-bottom: 12px;
  }
  h3 {
    font: 600 18px/1.3 ${({ theme }) => theme.serif};
    margin: 20px 0 6px;
  }
  p {
    margin: 0 0 12px;
  }
  ul,
  ol {
    padding-left: 20px;
    margin: 0 0 12px;
  }
  li {
    margin-bottom: 6px;
  }
  a {
    color: ${({ theme }) => theme.thorn};
  }
  em {
    font-family: ${({ theme }) => theme.serif};
    font-size: 1.05em;
  }
  code {
    font:
      13px ui-monospace,
      monospace;
    background: ${({ theme }) => theme.raised};
    border-radius: 3px;
    padding: 1px 4px;
    overflow-wrap: anywhere;
  }
  pre {
    overflow: auto;
  }
  table {
    border-collapse: collapse;
    margin-bottom: 14px;
  }
  th,
  td {
    text-align: left;
    vertical-align: top;
    padding: 5px 14px 5px 0;
    border-bottom: 1px solid ${({ theme }) => theme.line};
  }
  img {
    max-width: 100%;
    border: 1px solid ${({ theme }) => theme.line};
    border-radius: 6px;
    margin: 4px 0 8px;
  }
`;

const PARTS: Components = {
  // links within the guide lead to its chapters
  a: ({ href = '', children }) =>
    href.startsWith('#') ? (
      <Link to={guidePath(href.slice(1))}>{children}</Link>
    ) : (
      <a href={href} target="_blank" rel="noopener noreferrer">
        {children}
      </a>
    ),
  img: ({ src, alt }) => {
    const name = String(src).replace(/^.*\//, '');
    const found = Object.entries(PICTURES).find(([path]) => path.endsWith(`/${name}`));
    return found ? <img src={found[1]} alt={alt ?? ''} loading="lazy" /> : null;
  },
};
const PLUGINS = [remarkGfm];

export function Guide(): ReactNode {
  const { chapter } = useParams();
  const read = GUIDE.find((c) => c.slug === chapter);
  const main = useRef<HTMLElement>(null);
  // braces: what scrolling gives back is nothing to clean up
  useEffect(() => {
    main.current?.scrollTo(0, 0);
  }, [chapter]);
  const navigate = useNavigate();
  const board = useBoard();
  // on the shot that a first visit lands on
  const fromTheStart = (): void => {
    const shot = board.data?.flatMap((p) => (p.archived ? [] : p.shots)).find((s) => !s.archived);
    startTour();
    void navigate(shot ? `/shots/${shot.id}/set-up` : '/board');
  };

  if (chapter === undefined) return <Navigate to={guidePath(GUIDE[0].slug)} replace />;
  return (
    <>
      <TopBar crumbs={[{ label: read ? `Guide: ${read.title}` : 'Guide' }]} />
      <Page>
        <nav aria-label="Chapters">
          {GUIDE.map((c) => (
            <NavLink key={c.slug} to={guidePath(c.slug)}>
              {c.title}
            </NavLink>
          ))}
          <Tour onPress={fromTheStart}>Take the tour</Tour>
        </nav>
        <main ref={main} tabIndex={0}>
          <Text>
            {read ? (
              <>
                <h1>{read.title}</h1>
                <Markdown remarkPlugins={PLUGINS} components={PARTS}>
                  {read.text}
                </Markdown>
              </>
            ) : (
              <Quiet>There is no chapter of that name. Choose one at the left.</Quiet>
            )}
          </Text>
        </main>
      </Page>
    </>
  );
}
