package web

import (
	"net/http"

	"github.com/go-chi/chi/v5"

	"aspenridge/internal/app"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/raster"
)

// routes are all there are, by who may ask for them: anybody, whoever has a link, who is signed
// in, who may change things, who sees all of a workspace, who has the say. roles_test.go has a
// row for every one of them.
func (s *Server) routes(o Options) http.Handler {
	r := chi.NewRouter()
	r.Use(s.recovered, s.logged, s.secured, s.askedByName, within(smallBody, 0), compressed())
	r.Get("/healthz", func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte("ok\n")) })
	r.Get("/readyz", s.ready)
	r.Get("/.well-known/security.txt", s.do(s.securityTxt))
	r.Get("/static/*", s.static())
	r.Get("/fonts/{file}", font)
	r.Get("/fonts.css", fontSheet)
	r.Route("/g/{token}", func(r chi.Router) { // guidelines for whoever has the link
		r.Use(s.often)
		r.Get("/", s.do(s.readGuidelines))
		r.Get("/guidelines.pdf", s.do(s.readPDF))
		r.Get("/fonts.css", s.do(s.readFonts))
		r.Get("/own-fonts/{hash}", s.do(s.byLink(s.ownFont)))
		r.Get("/pictures/{hash}/{crop}/{size}", s.do(s.byLink(s.picture)))
	})
	r.Route("/p/{token}", func(r chi.Router) { // files for somebody's phone
		r.Use(s.often)
		r.Get("/", s.do(s.onPhone))
		r.Get("/{key}", s.do(s.phonePicture))
	})

	r.Route("/see/{token}", func(r chi.Router) { // a set for whoever has the link
		r.Use(s.often, http.NewCrossOriginProtection().Handler, limitBody(64<<10), inTime, s.sessions.LoadAndSave, s.byTurns)
		r.Get("/", s.do(s.see))
		r.Post("/unlock", s.do(s.unlock))
		s.proofRoutes(r, r, r, s.byLinkOf)
	})

	r.Group(func(r chi.Router) {
		r.Use(http.NewCrossOriginProtection().Handler, inTime, s.sessions.LoadAndSave)
		r.Get("/sign-in", s.signInPage)
		r.Get("/sign-up", s.signUpPage)
		r.Group(func(r chi.Router) {
			r.Use(limitBody(64 << 10))
			r.Post("/sign-in", s.do(s.signIn))
			r.Get("/sign-in/code", s.codePage)
			r.Post("/sign-in/code", s.do(s.signInCode))
			r.Post("/sign-up", s.do(s.signUp))
			r.Get("/forgot", s.forgotPage)
			r.Post("/forgot", s.do(s.forgot))
			r.Get("/mailbox", s.do(s.accountMails))
			r.With(s.often).Get("/reset/{token}", s.do(s.resetPage))
			r.With(s.often).Post("/reset/{token}", s.do(s.reset))
			r.With(s.often).Get("/confirm/{token}", s.do(s.confirmPage))
			r.With(s.often).Post("/confirm/{token}", s.do(s.confirm))
			r.With(s.often).Get("/join/{token}", s.do(s.invited))
			r.With(s.often).Post("/join/{token}", s.do(s.join))
		})
		r.Group(func(r chi.Router) {
			r.Use(s.signedIn, s.inReach, s.byTurns)
			s.shown(r)
			s.oneself(r.With(limitBody(64 << 10)))
			s.managed(r.With(limitBody(64 << 10)))
			s.changed(r.With(limitBody(1 << 20)))
			s.wide(r.With(limitBody(1<<20), s.needs(roles.WriteKits), s.needsAll))
			r.With(limitBody(64<<10)).Route("/briefs/{id}/proof", func(r chi.Router) {
				r.Get("/", s.byPerson(s.proof))
				r.With(s.needs(roles.WriteBriefs)).Post("/take", s.byPerson(s.takeWords))
				r.With(s.needs(roles.ShareOutside)).Post("/links", s.byPerson(s.newLink))
				r.With(s.needs(roles.ShareOutside)).Post("/links/end", s.byPerson(s.endLink))
				r.With(s.needs(roles.ShareOutside)).Post("/links/close", s.byPerson(s.closeLink))
				s.proofRoutes(r, r.With(s.needs(roles.Comment)), r.With(s.needs(roles.Decide)), s.byPerson)
			})
			received := r.With(within(smallBody, uploadRate))
			r.With(within(smallBody, uploadRate), limitBody(app.MostArchiveBytes)).Post("/workspaces/bring", s.do(s.importWorkspace))
			s.received(received.With(limitBody(raster.MaxBytes + 1<<20)))
			all := received.With(limitBody(raster.MaxBytes+1<<20), s.needsAll)
			all.With(s.needs(roles.WriteBriefs)).Post("/give", s.do(s.give))
			all.With(s.needs(roles.WriteKits)).Post("/kits/import", s.do(s.importKit))
			briefs := received.With(s.needs(roles.WriteBriefs))
			briefs.With(limitBody(app.MostClipBytes)).Post("/briefs/{id}/clips", s.do(s.bringClip))
			briefs.With(limitBody(app.MostSoundBytes)).Post("/sounds", s.do(s.bringSound))
		})
	})
	r.NotFound(func(w http.ResponseWriter, r *http.Request) { s.problem(w, r, app.ErrNotFound) })
	return r
}

// shown are the pages, parts of pages and files of somebody who is signed in.
func (s *Server) shown(r chi.Router) {
	r.Get("/", s.home)
	r.Get("/account", s.do(s.me))
	r.Get("/team", s.do(s.team))
	r.Get("/account.json", s.do(s.myData))
	r.With(s.needs(roles.ManageWorkspace)).Get("/workspace.zip", s.do(s.exportWorkspace))
	r.Get("/workspaces", s.do(s.workspaces))
	r.Get("/desk", s.do(s.desk))
	r.Get("/desk/briefs", s.do(s.findBriefs))
	r.Get("/desk/today", s.do(s.today))
	r.With(s.needs(roles.WriteBriefs)).Get("/record", s.do(s.record))
	r.With(s.needs(roles.WriteBriefs)).Get("/record.csv", s.do(s.recordCSV))
	r.Get("/events", s.do(s.streamEvents))
	r.Get("/pictures/{hash}/{crop}/{size}", s.do(s.picture))
	r.Get("/pictures/{hash}/colours", s.do(s.pictureColours))
	r.Post("/pictures/colours", s.do(s.coloursOfFile))
	r.Get("/icons", s.do(s.icons))
	r.Get("/kits", s.do(s.kits))
	r.Get("/kits/names", s.do(s.kitNames))
	r.Get("/kits/begin", s.do(s.findCharacter))
	r.Get("/kits/new", s.do(s.newKitPage))
	r.Get("/kits/{id}", s.do(s.kit))
	r.Get("/kits/{id}/sheet", s.do(s.kitSheet))
	r.Get("/kits/{id}/slip/{kind}/*", s.do(s.kitSlip))
	r.Get("/kits/{id}/take/{what}", s.do(s.takeAlong))
	r.Get("/kits/{id}/fonts.css", s.do(s.kitFontSheet))
	r.Get("/kits/{id}/try", s.do(s.tryCopy))
	r.Get("/kits/{id}/sound.wav", s.do(s.kitSound))
	r.Get("/kits/{id}/uses", s.do(s.uses))
	r.Get("/kits/{id}/guidelines", s.do(s.guidelines))
	r.Get("/kits/{id}/guidelines.pdf", s.do(s.guidelinesPDF))
	r.Get("/kits/{id}/compare", s.do(s.compare))
	r.Get("/kits/{id}/forward", s.do(s.kitForward))
	r.Get("/briefs/{id}/forward", s.do(s.briefForward))
	r.Get("/briefs/{id}/finished/{placement}.svg", s.do(s.frozen))
	r.Get("/clips/{hash}", s.do(s.clip))
	r.Get("/own-fonts/{hash}", s.do(s.ownFont))
	r.Get("/briefs/{id}/start", s.do(s.start))
	r.Get("/briefs/{id}/minis", s.do(s.minis))
	r.Get("/briefs/{id}/preview", s.do(s.preview))
	r.Get("/briefs/{id}/examples", s.do(s.examples))
	r.Get("/briefs/{id}/places", s.do(s.places))
	r.With(s.needs(roles.WriteBriefs)).Get("/several", s.do(s.several))
	r.With(s.needs(roles.WriteBriefs)).Get("/several/places", s.do(s.findSeveralPlaces))
	r.Get("/wall", s.do(s.wall))
	r.Get("/channels", s.do(s.channels))
	r.Get("/channels.json", s.do(s.exportChannels))
	r.Get("/briefs/{id}/looks", s.do(s.looks))
	r.Get("/briefs/{id}/looks/more", s.do(s.moreLooks))
	r.Get("/briefs/{id}/mat", s.do(s.mat))
	r.Get("/briefs/{id}/findings", s.do(s.findings))
	r.Get("/briefs/{id}/colourways", s.do(s.colourways))
	r.Get("/briefs/{id}/pieces/{placement}.{format}", s.do(s.download))
	r.Get("/briefs/{id}/set.zip", s.do(s.downloadAll))
	r.Get("/briefs/{id}/video", s.do(s.video))
	r.Get("/briefs/{id}/video/sound.wav", s.do(s.sound))
	r.Get("/briefs/{id}/video/captions.{format}", s.do(s.captions))
	r.Get("/briefs/{id}/handover", s.do(s.handOver))
	r.Get("/briefs/{id}/handover/files", s.do(s.files))
	r.Get("/briefs/{id}/handover/weigh", s.do(s.weigh))
	r.Get("/jobs/{id}/events", s.do(s.streamJob))
	r.Get("/parcels/{id}", s.do(s.parcel))
	r.Get("/requests/{id}/{which}", s.do(s.snapshot))
}

// needs lets only those through whose role has a capability.
func (s *Server) needs(c roles.Capability) func(http.Handler) http.Handler {
	return s.only(func(m app.Member) bool { return m.May(c) })
}

// writes lets those through who may change documents of some kind; which one it is is known further
// in, where it is asked for once more.
func (s *Server) writes(next http.Handler) http.Handler {
	return s.only(func(m app.Member) bool { return m.May(roles.WriteBriefs) || m.May(roles.WriteKits) })(next)
}

// needsAll lets only those through who see all of the workspace.
func (s *Server) needsAll(next http.Handler) http.Handler {
	return s.only(func(m app.Member) bool { return !m.Narrowed })(next)
}

func (s *Server) only(may func(m app.Member) bool) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if !may(member(r)) {
				s.problem(w, r, app.ErrNotAllowed)
				return
			}
			next.ServeHTTP(w, r)
		})
	}
}

// oneself is what everybody may: their account, where they are, what they had done.
func (s *Server) oneself(r chi.Router) {
	r.Post("/sign-out", s.do(s.signOut))
	r.Post("/account/name", s.do(s.renameMe))
	r.Post("/account/password", s.do(s.changePassword))
	r.Post("/account/email", s.do(s.changeEmail))
	r.Post("/account/tells", s.do(s.setTells))
	r.Post("/account/delete", s.do(s.deleteMe))
	r.Post("/account/sign-out", s.do(s.signOutEverywhere))
	r.Post("/account/sign-out/there", s.do(s.signOutThere))
	r.Post("/account/codes", s.do(s.beginCodes))
	r.Post("/account/codes/ask", s.do(s.askCodes))
	r.Post("/account/codes/end", s.do(s.noCodes))
	r.Post("/account/confirm", s.do(s.confirmAgain))
	r.Post("/team/remove", s.onTeam(s.removePerson)) // oneself; others by who manages
	r.Post("/workspaces", s.do(s.newWorkspace))
	r.Post("/workspaces/open", s.do(s.openWorkspace))
	r.Post("/jobs/{id}/stop", s.do(s.stopJob))
	r.Post("/briefs/{id}/parcel", s.do(s.pack))
	r.Post("/wall/parcel", s.do(s.wallParcel))
	r.Post("/briefs/{id}/here", s.do(s.here))
}

// managed is what those do who have the say in a workspace.
func (s *Server) managed(r chi.Router) {
	people := r.With(s.needs(roles.ManagePeople))
	people.Post("/team/role", s.onTeam(s.setRole))
	people.Post("/team/scope", s.onTeam(s.setScope))
	people.Post("/team/suspend", s.onTeam(s.suspend))
	people.Post("/team/invite", s.do(s.invite))
	people.Post("/team/invitations/end", s.do(s.endInvitation))
	workspace := r.With(s.needs(roles.ManageWorkspace))
	workspace.Post("/team/name", s.do(s.renameWorkspace))
	workspace.Post("/team/codes", s.do(s.demandCodes))
	workspace.Post("/requests/{id}", s.do(s.answer))
}

// wide is what those do who see all of a workspace.
func (s *Server) wide(r chi.Router) {
	r.Post("/kits", s.do(s.newKit))
	r.Post("/sample", s.do(s.lookRound))
	r.Post("/give/back", s.do(s.takeBack))
	r.Post("/kits/begin", s.do(s.startKit))
	r.Post("/kits/{id}/duplicate", s.do(s.duplicateKit))
	r.Post("/channels", s.do(s.changeChannels))
	r.Post("/kits/{id}/default", s.do(s.makeDefault))
}

// changed are the changes people make.
func (s *Server) changed(all chi.Router) {
	r := all.With(s.needs(roles.WriteBriefs))
	r.Post("/briefs", s.do(s.newBrief))
	r.Post("/several", s.do(s.beginSeveral))
	r.Post("/several/read", s.do(s.readSeveral))
	r.Post("/wall/look", s.do(s.wallLook))
	r.Post("/briefs/{id}/edit", s.do(s.editBrief))
	r.Post("/briefs/{id}/again", s.do(s.makeAgain))
	r.Post("/briefs/{id}/example", s.do(s.beginFrom))
	r.Post("/briefs/{id}/looks", s.do(s.changeLooks))
	r.Post("/briefs/{id}/looks/compare", s.do(s.compareLooks))
	r.Post("/briefs/{id}/looks/large", s.do(s.largeLook))
	r.Post("/briefs/{id}/sync", s.do(s.sync))
	r.Get("/briefs/{id}/past", s.do(s.past))
	r.Get("/briefs/{id}/past/{seq}", s.do(s.pastPiece))
	r.Post("/briefs/{id}/go-to", s.do(s.goTo))
	r.Post("/briefs/{id}/kit", s.do(s.useKit))
	r.Post("/briefs/{id}/finish", s.do(s.finish))
	r.Post("/briefs/{id}/video/sync", s.do(s.syncVideo))
	r.Post("/briefs/{id}/clips/frame", s.do(s.showFrame))
	r.Post("/briefs/{id}/video/make", s.do(s.makeVideo))
	r.Post("/briefs/{id}/picture", s.do(s.usePicture))
	r.Post("/briefs/{id}/promote", s.do(s.promote))
	any := all.With(s.writes)
	all.With(s.needs(roles.WriteKits)).Post("/kits/{id}/edit", s.do(s.editKit))
	any.Post("/documents/{id}/undo", s.do(s.undo))
	all.With(s.needs(roles.ShareOutside)).Post("/briefs/{id}/phone", s.do(s.toPhone))
	any.Post("/forward", s.do(s.bringForward))
	any.Post("/documents/{id}/archive", s.do(s.archive))
	any.Post("/documents/{id}/mend", s.do(s.mend))
	any.Post("/documents/{id}/delete", s.do(s.remove))
}

// received are the files people give.
func (s *Server) received(r chi.Router) {
	kits, briefs := r.With(s.needs(roles.WriteKits)), r.With(s.needs(roles.WriteBriefs))
	kits.Post("/kits/{id}/logos", s.do(s.intake(s.app.Brand.AddLogo, s.kitSheet)))
	kits.Post("/kits/{id}/logos/{item}", s.do(s.replaceItem(s.app.Brand.ReplaceLogo)))
	kits.Post("/kits/{id}/fonts/{item}", s.do(s.replaceItem(s.app.Brand.ReplaceFont)))
	kits.Post("/kits/{id}/pictures", s.do(s.intake(s.app.Brand.AddBrandPicture, s.kitSheet)))
	kits.Post("/kits/{id}/fonts", s.do(s.intake(s.app.Brand.AddFont, s.kitSheet)))
	briefs.Post("/briefs/{id}/pictures", s.do(s.onCard(s.app.Briefs.AddPicture)))
	briefs.Post("/briefs/{id}/pictures/first", s.do(s.placePicture))
	briefs.Post("/briefs/{id}/pictures/kept", s.do(s.keepPicture))
	briefs.Post("/briefs/{id}/portrait", s.do(s.onCard(s.app.Briefs.AddPortrait)))
}
