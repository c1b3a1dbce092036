//! A page in a real browser: Debian's Chromium, without a window.

use std::path::Path;
use std::sync::{Arc, Mutex};
use std::time::Duration;

use headless_chrome::browser::tab::point::Point;
use headless_chrome::protocol::cdp::types::Event;
use headless_chrome::protocol::cdp::{Emulation, Network};
use headless_chrome::{Browser, LaunchOptions, Tab};
use serde_json::Value;

/// Where a browser may be.
const PROGRAMS: [&str; 3] = ["/usr/bin/chromium", "/usr/bin/chromium-browser", "/usr/bin/google-chrome"];

/// A page, and what went on behind it.
pub(crate) struct Page {
    tab: Arc<Tab>,
    requests: Arc<Mutex<Vec<String>>>,
    complaints: Arc<Mutex<Vec<String>>>,
    _browser: Browser,
}

impl Page {
    /// A browser with an empty page; none, with a message, where there is no browser.
    pub(crate) fn new() -> Option<Self> {
        let Some(program) = PROGRAMS.iter().map(Path::new).find(|path| path.exists()) else {
            eprintln!("skipped: there is no Chromium here (Debian: apt-get install chromium)");
            return None;
        };
        let options = LaunchOptions::default_builder()
            .path(Some(program.to_path_buf()))
            .sandbox(false)
            .window_size(Some((1280, 800)))
            .idle_browser_timeout(Duration::from_secs(300))
            .build()
            .unwrap();
        let browser = Browser::new(options).unwrap();
        let tab = browser.new_tab().unwrap();
        tab.set_default_timeout(Duration::from_secs(20));
        let (requests, complaints) = (Arc::new(Mutex::new(Vec::new())), Arc::new(Mutex::new(Vec::new())));
        let enable = Network::Enable {
            max_total_buffer_size: None,
            max_resource_buffer_size: None,
            max_post_data_size: None,
            report_direct_socket_traffic: None,
            enable_durable_messages: None,
        };
        tab.call_method(enable).unwrap();
        tab.enable_log().unwrap().enable_runtime().unwrap();
        let (asked, said) = (Arc::clone(&requests), Arc::clone(&complaints));
        let listen = move |event: &Event| match event {
            Event::NetworkRequestWillBeSent(event) => asked.lock().unwrap().push(event.params.request.url.clone()),
            Event::LogEntryAdded(event) => said.lock().unwrap().push(event.params.entry.text.clone()),
            Event::RuntimeExceptionThrown(event) => said.lock().unwrap().push(format!("{:?}", event.params)),
            Event::RuntimeConsoleAPICalled(event) => said.lock().unwrap().push(format!("{:?}", event.params.args)),
            _ => {}
        };
        tab.add_event_listener(Arc::new(listen)).unwrap();
        Some(Self { tab, requests, complaints, _browser: browser })
    }

    /// Opens a file.
    pub(crate) fn open(&self, path: &Path) {
        self.go(&format!("file://{}", path.display()));
    }

    fn go(&self, address: &str) {
        self.tab.navigate_to(address).unwrap().wait_until_navigated().unwrap();
    }

    /// Opens the same page again.
    pub(crate) fn reload(&self) {
        self.tab.reload(false, None).unwrap().wait_until_navigated().unwrap();
    }

    /// What an expression gives in the page.
    pub(crate) fn get(&self, expression: &str) -> Value {
        let found = self.tab.evaluate(&format!("JSON.stringify({expression})"), true).unwrap();
        match found.value {
            Some(Value::String(text)) => serde_json::from_str(&text).unwrap(),
            other => panic!("{expression} gives {other:?}"),
        }
    }

    /// The text of the first element that a selector fits.
    pub(crate) fn text(&self, selector: &str) -> String {
        let text = self.get(&format!("document.querySelector({selector:?}).innerText"));
        text.as_str().unwrap().to_owned()
    }

    /// How many elements fit a selector and can be seen.
    pub(crate) fn seen(&self, selector: &str) -> u64 {
        let count = "filter((one) => one.checkVisibility() && one.getClientRects().length > 0).length";
        self.get(&format!("[...document.querySelectorAll({selector:?})].{count}")).as_u64().unwrap()
    }

    /// Clicks on the first element that a selector fits, and waits for another page if that leads to one.
    pub(crate) fn follow(&self, selector: &str) {
        self.get("(window.isLeft = false)");
        self.click(selector);
        self.wait_for_another();
    }

    /// Presses a key that leads to another page, and waits for that.
    pub(crate) fn follow_key(&self, key: &str) {
        self.get("(window.isLeft = false)");
        self.press(key);
        self.wait_for_another();
    }

    /// Waits until another page has taken the place of one that was marked.
    fn wait_for_another(&self) {
        for _ in 0..500 {
            let is_there = "window.isLeft === undefined && document.readyState === 'complete'";
            // Between two pages there is none to ask.
            if self.tab.evaluate(is_there, false).is_ok_and(|found| found.value == Some(Value::Bool(true))) {
                return;
            }
            std::thread::sleep(Duration::from_millis(20));
        }
        panic!("no other page came");
    }

    /// Clicks in the middle of the first element that a selector fits.
    pub(crate) fn click(&self, selector: &str) {
        let element = format!("document.querySelector({selector:?})");
        self.get(&format!("{element}.scrollIntoView({{ block: 'center' }}) ?? null"));
        let place = self.get(&format!("{element}.getBoundingClientRect()"));
        let middle = |start: &str, length: &str| place[start].as_f64().unwrap() + place[length].as_f64().unwrap() / 2.0;
        self.tab.click_point(Point { x: middle("x", "width"), y: middle("y", "height") }).unwrap();
    }

    pub(crate) fn press(&self, key: &str) {
        self.tab.press_key(key).unwrap();
    }

    pub(crate) fn type_text(&self, text: &str) {
        self.tab.type_str(text).unwrap();
    }

    /// The name of the file that is open, and the place in it.
    pub(crate) fn place(&self) -> String {
        self.get("location.href.split('/').pop()").as_str().unwrap().to_owned()
    }

    /// Pretends that the system is dark, or light.
    pub(crate) fn set_dark(&self, dark: bool) {
        let value = if dark { "dark" } else { "light" }.to_owned();
        let feature = Emulation::MediaFeature { name: "prefers-color-scheme".to_owned(), value };
        self.tab.call_method(Emulation::SetEmulatedMedia { media: None, features: Some(vec![feature]) }).unwrap();
    }

    /// Makes the window so wide.
    pub(crate) fn set_width(&self, width: u32) {
        let script = Emulation::SetDeviceMetricsOverride {
            width,
            height: 740,
            device_scale_factor: 1.0,
            mobile: false,
            scale: None,
            screen_width: None,
            screen_height: None,
            position_x: None,
            position_y: None,
            dont_set_visible_size: None,
            screen_orientation: None,
            viewport: None,
            display_feature: None,
            device_posture: None,
        };
        self.tab.call_method(script).unwrap();
    }

    /// Lets no script of the page run any more; those of the test still do.
    pub(crate) fn without_scripts(&self) {
        self.tab.call_method(Emulation::SetScriptExecutionDisabled { value: true }).unwrap();
    }

    /// That the page asked for nothing outside its own folder, and that nothing in it failed.
    pub(crate) fn assert_quiet(&self, folder: &Path) {
        let own = format!("file://{}/", folder.display());
        let requests = self.requests.lock().unwrap();
        // What stands in the page itself is asked of nobody.
        let is_own = |url: &&String| url.starts_with(&own) || url.starts_with("data:");
        let foreign: Vec<_> = requests.iter().filter(|url| !is_own(url)).collect();
        assert!(foreign.is_empty(), "the page asks for {foreign:?}");
        let complaints = self.complaints.lock().unwrap();
        assert!(complaints.is_empty(), "the page complains: {complaints:?}");
    }
}
