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
		r.Use(s.often, http.NewCrossOriginProtection().Handler, limitBody(64<<10))
		quick, long := r.With(inTime, s.sessions.LoadAndSave, s.byTurns), r.With(s.sessions.LoadAndSave)
		quick.Get("/", s.do(s.see))
		quick.Post("/unlock", s.do(s.unlock))
		s.proofRoutes(pace{quick, long}, "", func(roles.Capability) func(http.Handler) http.Handler {
			return func(h http.Handler) http.Handler { return h }
		}, s.byLinkOf)
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
	})
	r.Group(func(r chi.Router) { // who is signed in
		r.Use(http.NewCrossOriginProtection().Handler)
		p := pace{r.With(inTime, s.sessions.LoadAndSave, s.signedIn, s.inReach, s.byTurns), r.With(s.sessions.LoadAndSave, s.signedIn, s.inReach)}
		s.shown(p)
		s.oneself(p.with(limitBody(64 << 10)))
		s.managed(p.with(limitBody(64 << 10)))
		s.changed(p.with(limitBody(1 << 20)))
		s.wide(p.with(limitBody(1<<20), s.needs(roles.WriteKits), s.needsAll))
		s.proofed(p.with(limitBody(64 << 10)))
		s.received(r.With(s.sessions.LoadAndSave, s.signedIn, s.inReach, within(smallBody, uploadRate)))
	})
	r.NotFound(func(w http.ResponseWriter, r *http.Request) { s.problem(w, r, app.ErrNotFound) })
	return r
}

// pace are the two ways to a handler: quick answers soon and waits for its turn with what others
// have composed; long reads files, draws them or stays open, each with limits of its own.
type pace struct{ quick, long chi.Router }

func (p pace) with(m ...func(http.Handler) http.Handler) pace {
	return pace{p.quick.With(m...), p.long.With(m...)}
}

// proofed is Proof for who is signed in.
func (s *Server) proofed(p pace) {
	const at = "/briefs/{id}/proof"
	p.quick.Get(at+"/", s.byPerson(s.proof))
	p.quick.With(s.needs(roles.WriteBriefs)).Post(at+"/take", s.byPerson(s.takeWords))
	share := p.quick.With(s.needs(roles.ShareOutside))
	share.Post(at+"/links", s.byPerson(s.newLink))
	share.Post(at+"/links/end", s.byPerson(s.endLink))
	share.Post(at+"/links/close", s.byPerson(s.closeLink))
	s.proofRoutes(p, at, s.needs, s.byPerson)
}

// shown are the pages, parts of pages and files of somebody who is signed in.
func (s *Server) shown(p pace) {
	p.quick.Get("/", s.home)
	p.quick.Get("/account", s.do(s.me))
	p.quick.Get("/team", s.do(s.team))
	p.quick.Get("/account.json", s.do(s.myData))
	p.long.With(s.needs(roles.ManageWorkspace)).Get("/workspace.zip", s.do(s.exportWorkspace))
	p.quick.Get("/workspaces", s.do(s.workspaces))
	p.quick.Get("/desk", s.do(s.desk))
	p.quick.Get("/desk/briefs", s.do(s.findBriefs))
	p.long.Get("/desk/today", s.do(s.today))
	p.quick.With(s.needs(roles.WriteBriefs)).Get("/record", s.do(s.record))
	p.long.With(s.needs(roles.WriteBriefs)).Get("/record.csv", s.do(s.recordCSV))
	p.long.Get("/events", s.do(s.streamEvents))
	p.long.Get("/pictures/{hash}/{crop}/{size}", s.do(s.picture))
	p.long.Get("/pictures/{hash}/colours", s.do(s.pictureColours))
	p.long.Post("/pictures/colours", s.do(s.coloursOfFile))
	p.quick.Get("/icons", s.do(s.icons))
	p.quick.Get("/kits", s.do(s.kits))
	p.quick.Get("/kits/names", s.do(s.kitNames))
	p.long.Get("/kits/begin", s.do(s.findCharacter))
	p.quick.Get("/kits/new", s.do(s.newKitPage))
	p.quick.Get("/kits/{id}", s.do(s.kit))
	p.quick.Get("/kits/{id}/sheet", s.do(s.kitSheet))
	p.quick.Get("/kits/{id}/slip/{kind}/*", s.do(s.kitSlip))
	p.long.Get("/kits/{id}/take/{what}", s.do(s.takeAlong))
	p.long.Get("/kits/{id}/fonts.css", s.do(s.kitFontSheet))
	p.quick.Get("/kits/{id}/try", s.do(s.tryCopy))
	p.long.Get("/kits/{id}/sound.wav", s.do(s.kitSound))
	p.quick.Get("/kits/{id}/uses", s.do(s.uses))
	p.quick.Get("/kits/{id}/guidelines", s.do(s.guidelines))
	p.long.Get("/kits/{id}/guidelines.pdf", s.do(s.guidelinesPDF))
	p.quick.Get("/kits/{id}/compare", s.do(s.compare))
	p.long.Get("/kits/{id}/forward", s.do(s.kitForward))
	p.long.Get("/briefs/{id}/forward", s.do(s.briefForward))
	p.long.Get("/briefs/{id}/finished/{placement}.svg", s.do(s.frozen))
	p.long.Get("/clips/{hash}", s.do(s.clip))
	p.long.Get("/own-fonts/{hash}", s.do(s.ownFont))
	p.quick.Get("/briefs/{id}/start", s.do(s.start))
	p.quick.Get("/briefs/{id}/minis", s.do(s.minis))
	p.quick.Get("/briefs/{id}/preview", s.do(s.preview))
	p.quick.Get("/briefs/{id}/examples", s.do(s.examples))
	p.quick.Get("/briefs/{id}/places", s.do(s.places))
	p.quick.With(s.needs(roles.WriteBriefs)).Get("/several", s.do(s.several))
	p.quick.With(s.needs(roles.WriteBriefs)).Get("/several/places", s.do(s.findSeveralPlaces))
	p.quick.Get("/wall", s.do(s.wall))
	p.quick.Get("/channels", s.do(s.channels))
	p.quick.Get("/channels.json", s.do(s.exportChannels))
	p.quick.Get("/briefs/{id}/looks", s.do(s.looks))
	p.quick.Get("/briefs/{id}/looks/more", s.do(s.moreLooks))
	p.quick.Get("/briefs/{id}/mat", s.do(s.mat))
	p.quick.Get("/briefs/{id}/findings", s.do(s.findings))
	p.quick.Get("/briefs/{id}/colourways", s.do(s.colourways))
	p.long.Get("/briefs/{id}/pieces/{placement}.{format}", s.do(s.download))
	p.quick.Get("/briefs/{id}/pieces/{placement}/moves", s.do(s.moves))
	p.long.Get("/briefs/{id}/set.zip", s.do(s.downloadAll))
	p.quick.Get("/briefs/{id}/video", s.do(s.video))
	p.long.Get("/briefs/{id}/video/sound.wav", s.do(s.sound))
	p.quick.Get("/briefs/{id}/video/captions.{format}", s.do(s.captions))
	p.quick.Get("/briefs/{id}/handover", s.do(s.handOver))
	p.quick.Get("/briefs/{id}/handover/files", s.do(s.files))
	p.long.Get("/briefs/{id}/handover/weigh", s.do(s.weigh))
	p.long.Get("/jobs/{id}/events", s.do(s.streamJob))
	p.long.Get("/parcels/{id}", s.do(s.parcel))
	p.quick.Get("/requests/{id}/{which}", s.do(s.snapshot))
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
func (s *Server) oneself(p pace) {
	p.quick.Post("/sign-out", s.do(s.signOut))
	p.quick.Post("/account/name", s.do(s.renameMe))
	p.quick.Post("/account/password", s.do(s.changePassword))
	p.quick.Post("/account/email", s.do(s.changeEmail))
	p.quick.Post("/account/tells", s.do(s.setTells))
	p.quick.Post("/account/delete", s.do(s.deleteMe))
	p.quick.Post("/account/sign-out", s.do(s.signOutEverywhere))
	p.quick.Post("/account/sign-out/there", s.do(s.signOutThere))
	p.quick.Post("/account/codes", s.do(s.beginCodes))
	p.quick.Post("/account/codes/ask", s.do(s.askCodes))
	p.quick.Post("/account/codes/end", s.do(s.noCodes))
	p.quick.Post("/account/confirm", s.do(s.confirmAgain))
	p.quick.Post("/team/remove", s.onTeam(s.removePerson)) // oneself; others by who manages
	p.quick.Post("/workspaces", s.do(s.newWorkspace))
	p.quick.Post("/workspaces/open", s.do(s.openWorkspace))
	p.quick.Post("/jobs/{id}/stop", s.do(s.stopJob))
	p.quick.Post("/briefs/{id}/parcel", s.do(s.pack))
	p.quick.Post("/wall/parcel", s.do(s.wallParcel))
	p.quick.Post("/briefs/{id}/here", s.do(s.here))
}

// managed is what those do who have the say in a workspace.
func (s *Server) managed(p pace) {
	people := p.quick.With(s.needs(roles.ManagePeople))
	people.Post("/team/role", s.onTeam(s.setRole))
	people.Post("/team/scope", s.onTeam(s.setScope))
	people.Post("/team/suspend", s.onTeam(s.suspend))
	people.Post("/team/invite", s.do(s.invite))
	people.Post("/team/invitations/end", s.do(s.endInvitation))
	workspace := p.quick.With(s.needs(roles.ManageWorkspace))
	workspace.Post("/team/name", s.do(s.renameWorkspace))
	workspace.Post("/team/codes", s.do(s.demandCodes))
	workspace.Post("/requests/{id}", s.do(s.answer))
}

// wide is what those do who see all of a workspace.
func (s *Server) wide(p pace) {
	p.quick.Post("/kits", s.do(s.newKit))
	p.long.Post("/sample", s.do(s.lookRound))
	p.long.Post("/give/back", s.do(s.takeBack))
	p.long.Post("/kits/begin", s.do(s.startKit))
	p.quick.Post("/kits/{id}/duplicate", s.do(s.duplicateKit))
	p.quick.Post("/channels", s.do(s.changeChannels))
	p.quick.Post("/kits/{id}/default", s.do(s.makeDefault))
}

// changed are the changes people make.
func (s *Server) changed(p pace) {
	briefs := p.with(s.needs(roles.WriteBriefs))
	briefs.quick.Post("/briefs", s.do(s.newBrief))
	briefs.quick.Post("/several", s.do(s.beginSeveral))
	briefs.quick.Post("/several/read", s.do(s.readSeveral))
	briefs.quick.Post("/wall/look", s.do(s.wallLook))
	briefs.quick.Post("/briefs/{id}/edit", s.do(s.editBrief))
	briefs.quick.Post("/briefs/{id}/again", s.do(s.makeAgain))
	briefs.quick.Post("/briefs/{id}/example", s.do(s.beginFrom))
	briefs.quick.Post("/briefs/{id}/looks", s.do(s.changeLooks))
	briefs.quick.Post("/briefs/{id}/looks/compare", s.do(s.compareLooks))
	briefs.quick.Post("/briefs/{id}/looks/large", s.do(s.largeLook))
	briefs.quick.Post("/briefs/{id}/sync", s.do(s.sync))
	briefs.quick.Get("/briefs/{id}/past", s.do(s.past))
	briefs.quick.Get("/briefs/{id}/past/{seq}", s.do(s.pastPiece))
	briefs.quick.Post("/briefs/{id}/go-to", s.do(s.goTo))
	briefs.quick.Post("/briefs/{id}/kit", s.do(s.useKit))
	briefs.long.Post("/briefs/{id}/finish", s.do(s.finish))
	briefs.quick.Post("/briefs/{id}/video/sync", s.do(s.syncVideo))
	briefs.long.Post("/briefs/{id}/clips/frame", s.do(s.showFrame))
	briefs.quick.Post("/briefs/{id}/video/make", s.do(s.makeVideo))
	briefs.quick.Post("/briefs/{id}/picture", s.do(s.usePicture))
	briefs.quick.Post("/briefs/{id}/promote", s.do(s.promote))
	any := p.with(s.writes)
	p.quick.With(s.needs(roles.WriteKits)).Post("/kits/{id}/edit", s.do(s.editKit))
	any.quick.Post("/documents/{id}/undo", s.do(s.undo))
	p.quick.With(s.needs(roles.ShareOutside)).Post("/briefs/{id}/phone", s.do(s.toPhone))
	any.long.Post("/forward", s.do(s.bringForward))
	any.quick.Post("/documents/{id}/archive", s.do(s.archive))
	any.quick.Post("/documents/{id}/mend", s.do(s.mend))
	any.quick.Post("/documents/{id}/delete", s.do(s.remove))
}

// received are the files people give.
func (s *Server) received(r chi.Router) {
	r.With(limitBody(app.MostArchiveBytes)).Post("/workspaces/bring", s.do(s.importWorkspace))
	writesKits, writesBriefs := s.needs(roles.WriteKits), s.needs(roles.WriteBriefs)
	r.With(limitBody(app.MostClipBytes), writesBriefs).Post("/briefs/{id}/clips", s.do(s.bringClip))
	r.With(limitBody(app.MostSoundBytes), writesBriefs).Post("/sounds", s.do(s.bringSound))
	r = r.With(limitBody(raster.MaxBytes + 1<<20))
	r.With(s.needsAll, writesBriefs).Post("/give", s.do(s.give))
	r.With(s.needsAll, writesKits).Post("/kits/import", s.do(s.importKit))
	kits, briefs := r.With(writesKits), r.With(writesBriefs)
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
