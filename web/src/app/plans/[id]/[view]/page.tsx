import { notFound } from 'next/navigation';
import { Suspense } from 'react';
import { Workbench } from './Workbench.tsx';
import { isView } from '../../../../components/frame/views.ts';

export default async function PlanPage({ params }: { params: Promise<{ id: string; view: string }> }) {
  const { id, view } = await params;
  if (!isView(view)) notFound();
  return (
    <Suspense>
      <Workbench planId={id} view={view} />
    </Suspense>
  );
}
