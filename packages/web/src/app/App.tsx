// Routes, theme, server data.
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { useEffect, useState, type ReactNode } from 'react';
import { BrowserRouter, Navigate, Route, Routes } from 'react-router';
import { ThemeProvider } from 'styled-components';
import { useBoard } from '../data/queries/board';
import { useServerEvents } from '../data/queries/server-events';
import { Broken } from './Broken';
import { GlobalStyle } from './global-style';
import { later } from '../parts/later';
import { useAppearance } from './appearance';
import { startTour } from '../tour/tour';
import { dark, light } from './theme';

const Board = later(() => import('../board/Board'), 'Board');
const Guide = later(() => import('../guide/Guide'), 'Guide');
const Queue = later(() => import('./Queue'), 'Queue');
const Shot = later(() => import('./Shot'), 'Shot');
const Storage = later(() => import('./Storage'), 'Storage');
const Sheets = later(() => import('../variants/Sheets'), 'Sheets');
const Review = later(() => import('../review/Review'), 'Review');
const Savings = later(() => import('../stages/light/Savings'), 'Savings');

const THEMES = { dark, light };
const client = new QueryClient({
  defaultOptions: { queries: { staleTime: 30000, refetchOnWindowFocus: false } },
});
const VISITED = 'bramblemist.visited';

/** The first visit lands on a shot with something moving, later ones on the board. */
function Landing(): ReactNode {
  const board = useBoard();
  const [visited] = useState(() => localStorage.getItem(VISITED) !== null);
  const shot = board.data?.flatMap((p) => (p.archived ? [] : p.shots)).find((s) => !s.archived);
  useEffect(() => {
    if (!shot) return;
    if (!visited) startTour();
    localStorage.setItem(VISITED, '1');
  }, [shot, visited]);
  if (visited || board.error) return <Navigate to="/board" replace />;
  if (!board.data) return null;
  return <Navigate to={shot ? `/shots/${shot.id}/set-up` : '/board'} replace />;
}

function Pages(): ReactNode {
  useServerEvents();
  return (
    <Routes>
      <Route path="/" element={<Landing />} />
      <Route path="/board" element={<Board />} />
      <Route path="/shots/:id/sheets" element={<Sheets />} />
      <Route path="/shots/:id/savings" element={<Savings />} />
      <Route path="/shots/:id/review" element={<Review />} />
      <Route path="/shots/:id/:stage" element={<Shot />} />
      <Route path="/guide/:chapter?" element={<Guide />} />
      <Route path="/queue" element={<Queue />} />
      <Route path="/storage" element={<Storage />} />
      <Route path="*" element={<Navigate to="/board" replace />} />
    </Routes>
  );
}

export function App(): ReactNode {
  const appearance = useAppearance((s) => s.appearance);
  return (
    <ThemeProvider theme={THEMES[appearance]}>
      <GlobalStyle />
      <QueryClientProvider client={client}>
        <BrowserRouter>
          <Broken>
            <Pages />
          </Broken>
        </BrowserRouter>
      </QueryClientProvider>
    </ThemeProvider>
  );
}
