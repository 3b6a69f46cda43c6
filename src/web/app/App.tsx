import { lazy, Suspense } from 'react'
import { type Location, Navigate, Route, Routes, useLocation } from 'react-router'
import { Trouble } from '../components/Notice'
import { ComparePlace } from '../places/compare/ComparePlace'
import { FamilyPlace } from '../places/family/FamilyPlace'
import { BatchPlace } from '../places/intake/BatchPlace'
import { FeedPlace } from '../places/intake/feeds/FeedPlace'
import { IntakePlace } from '../places/intake/IntakePlace'
import { SchedulePlace } from '../places/mock-up/schedule/SchedulePlace'
import { PeoplePlace } from '../places/people/PeoplePlace'
import { AuditPlace } from '../places/projects/audits/AuditPlace'
import { BesidePlace } from '../places/projects/audits/BesidePlace'
import { SceneSchedulePlace } from '../places/projects/audits/SceneSchedulePlace'
import { CheckPlace } from '../places/projects/check/CheckPlace'
import { DecisionsPlace } from '../places/projects/decisions/DecisionsPlace'
import { ProjectPlace } from '../places/projects/ProjectPlace'
import { ProjectsPlace } from '../places/projects/ProjectsPlace'
import { ShownProjectPlace } from '../places/projects/ShownProjectPlace'
import { ProjectSchedulePlace } from '../places/projects/schedule/ProjectSchedulePlace'
import { SignInPlace } from '../places/sign-in/SignInPlace'
import { WelcomePlace } from '../places/sign-in/WelcomePlace'
import { LicencesPlace } from '../places/standard/licences/LicencesPlace'
import { ProfilesPlace } from '../places/standard/profiles/ProfilesPlace'
import { RigPlace } from '../places/standard/RigPlace'
import { StandardPlace } from '../places/standard/StandardPlace'
import { WordsPlace } from '../places/standard/WordsPlace'
import { RecordPlace } from '../places/upkeep/RecordPlace'
import { UpkeepPlace } from '../places/upkeep/UpkeepPlace'
import { WallPlace } from '../places/wall/WallPlace'
import { useGetSessionQuery } from '../state/api'
import { useLive } from '../state/use-live'
import { Frame } from './Frame'

// The sheet brings the 3-D view with it; the wall need not wait for that.
const SheetOverlay = lazy(() => import('../places/sheet/SheetOverlay'))
const MockUpPlace = lazy(() => import('../places/mock-up/MockUpPlace'))

/** Where a sheet was opened from, so that it lies over that place and goes back to it. */
export interface SheetOrigin {
  behind?: Location
}

export function App() {
  const location = useLocation()
  const { data: session, error, isLoading, refetch } = useGetSessionQuery()
  useLive(session?.person?.id)
  if (isLoading) return null
  if (error || !session) return <Trouble error={error} onRetry={refetch} />
  // A link that lets somebody in is for whoever opens it, signed in or not.
  if (location.pathname.startsWith('/welcome/'))
    return (
      <Routes>
        <Route path="/welcome/:token" element={<WelcomePlace />} />
      </Routes>
    )
  if (!session.person)
    return <SignInPlace studio={session.studio} outsideSignIn={session.outsideSignIn} demoPeople={session.demoPeople} />
  if (session.person.role === 'guest')
    return (
      <Frame person={session.person}>
        <Routes>
          <Route path="/projects" element={<ProjectsPlace session={session} />} />
          <Route path="/projects/:id" element={<ShownProjectPlace />} />
          <Route path="*" element={<Navigate to="/projects" replace />} />
        </Routes>
      </Frame>
    )
  const onSheet = location.pathname.startsWith('/items/')
  const behind =
    (location.state as SheetOrigin | null)?.behind ??
    (onSheet ? { ...location, pathname: '/wall', search: '', state: null } : location)
  return (
    <Frame person={session.person}>
      <Routes location={behind}>
        <Route path="/" element={<Navigate to="/wall" replace />} />
        <Route path="/wall" element={<WallPlace session={session} />} />
        <Route path="/family" element={<FamilyPlace />} />
        <Route path="/compare" element={<ComparePlace />} />
        <Route path="/intake" element={<IntakePlace session={session} />} />
        <Route path="/intake/feeds/:id" element={<FeedPlace />} />
        <Route path="/intake/:id" element={<BatchPlace />} />
        <Route path="/standard" element={<StandardPlace />} />
        <Route path="/standard/words" element={<WordsPlace />} />
        <Route path="/standard/profiles" element={<ProfilesPlace />} />
        <Route path="/standard/licences" element={<LicencesPlace />} />
        <Route path="/standard/rigs/:name" element={<RigPlace />} />
        <Route path="/projects" element={<ProjectsPlace session={session} />} />
        <Route path="/projects/:id" element={<ProjectPlace />} />
        <Route path="/projects/check" element={<CheckPlace />} />
        <Route path="/projects/:id/decisions" element={<DecisionsPlace />} />
        <Route path="/audits/:id" element={<AuditPlace />} />
        <Route path="/audits/:id/beside" element={<BesidePlace />} />
        <Route path="/audits/:id/beside/:other" element={<BesidePlace />} />
        <Route path="/projects/:id/schedule" element={<ProjectSchedulePlace />} />
        <Route path="/audits/:id/schedule" element={<SceneSchedulePlace />} />
        <Route path="/mock-ups/:id/schedule" element={<SchedulePlace />} />
        <Route
          path="/mock-ups/:id"
          element={
            <Suspense fallback={null}>
              <MockUpPlace />
            </Suspense>
          }
        />
        <Route path="/upkeep" element={<UpkeepPlace />} />
        <Route path="/upkeep/record" element={<RecordPlace />} />
        <Route path="/people" element={<PeoplePlace session={session} />} />
        <Route path="*" element={<Navigate to="/wall" replace />} />
      </Routes>
      {onSheet && (
        <Suspense fallback={null}>
          <Routes>
            <Route path="/items/:code" element={<SheetOverlay behind={behind} />} />
          </Routes>
        </Suspense>
      )}
    </Frame>
  )
}
