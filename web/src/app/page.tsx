import { PlanList } from '../features/start/PlanList.tsx';

export default function StartPage() {
  return <PlanList />;
}
