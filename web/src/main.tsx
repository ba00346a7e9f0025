import { QueryClientProvider } from '@tanstack/react-query'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { BrowserRouter, Route, Routes } from 'react-router-dom'
import { cache } from './api/cache'
import { roomQueries } from './api/queries'
import { Places } from './rooms/places'
import { Preparing } from './rooms/preparing'
import { RoomList } from './rooms/room-list'
import { Workspace } from './rooms/workspace'
import { watchPage } from './state/stores'
import { Whole } from './ui/whole'
import './styles.css'

watchPage()
void cache.prefetchQuery(roomQueries.catalogue())

// the faces of the first page, asked for before anything is written in them: no line breaks anew when they come
void Promise.all(
  ['400 1rem', '600 1rem', '700 1rem'].flatMap((weight) => [
    document.fonts.load(`${weight} "Bricolage Grotesque Variable"`),
    document.fonts.load(`${weight} "Atkinson Hyperlegible Next Variable"`),
  ]),
)

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={cache}>
      <BrowserRouter>
        <Whole what="This page" again={null}>
          <Routes>
            <Route path="/" element={<RoomList />} />
            <Route path="/places" element={<Places />} />
            <Route path="/places/:project" element={<Places />} />
            <Route path="/rooms/:roomId" element={<Workspace />} />
            <Route path="/rooms/:roomId/:step/*" element={<Workspace />} />
            <Route path="*" element={<RoomList />} />
          </Routes>
        </Whole>
      </BrowserRouter>
      <Preparing />
    </QueryClientProvider>
  </StrictMode>,
)
