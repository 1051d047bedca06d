import { PlanList } from '../views/start/PlanList.tsx';

export default function StartPage() {
  return <PlanList />;
}
