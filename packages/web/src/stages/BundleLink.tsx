// A bundle to be fetched: a bake or a render with all that it needs, to be run on another machine.
import { Package } from 'lucide-react';
import type { ReactNode } from 'react';
import { LinkButton } from '../parts/ui';

const HOW =
  'A ZIP with all that it needs. There: bramblemist run BUNDLE.zip. Bring the result back in Run, with ' +
  '“bring volumes”.';

export const BundleLink = ({ href }: { href: string }): ReactNode => (
  <LinkButton href={href} title={HOW}>
    <Package size={14} /> Bundle for another machine
  </LinkButton>
);
