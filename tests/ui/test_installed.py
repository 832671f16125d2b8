"""As an application of the device: without the server, with what is shared, and with what is
opened.
"""

from pathlib import Path

from playwright.sync_api import Page, expect

from tests.ui.hands import horizon_file, set_of

READY = "() => navigator.serviceWorker.ready.then((one) => Boolean(one.active))"
SHARE = """async ([address, name, bytes]) => {
  // As the system does it: a form is sent, and the page that answers it is shown.
  const form = document.createElement('form');
  form.method = 'post'; form.action = address; form.enctype = 'multipart/form-data';
  const input = document.createElement('input');
  input.type = 'file'; input.name = 'pictures';
  const shared = new DataTransfer();
  shared.items.add(new File([new Uint8Array(bytes)], name, { type: 'image/png' }));
  input.files = shared.files;
  form.append(input); document.body.append(form); form.submit();
}"""
LAUNCH = """(bytes) => {
  const file = new File([new Uint8Array(bytes)], 'opened.png', { type: 'image/png' });
  const setConsumer = (take) => take({ files: [{ getFile: async () => file }] });
  Object.defineProperty(window, 'launchQueue', { value: { setConsumer } });
}"""


def ready(page: Page) -> None:
    page.goto(set_of(page))
    page.wait_for_function(READY)
    page.reload()  # now it is looked after
    page.wait_for_function("() => navigator.serviceWorker.controller !== null")


def test_without_the_server_a_page_says_so_and_tries_again(set_page: Page) -> None:
    page = set_page
    ready(page)
    page.context.set_offline(True)
    page.goto(set_of(page), wait_until="commit")
    expect(page.get_by_role("heading", name="Sequor is not there")).to_be_visible()
    expect(page.get_by_role("status")).to_contain_text("tries again by itself")
    page.context.set_offline(False)
    expect(page.get_by_role("button", name="Add pictures")).to_be_visible()


def test_a_shared_picture_arrives_in_a_set(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    ready(page)
    picture = list(horizon_file(tmp_path, 1.0, name="shared.png").read_bytes())
    page.evaluate(SHARE, ["/shared", "shared.png", picture])
    expect(page.get_by_role("link", name="shared.png")).to_be_visible()
    assert "shared" not in page.url


def test_a_picture_is_opened_with_it(set_page: Page, tmp_path: Path) -> None:
    page = set_page.context.new_page()  # what is run at its start stays with it
    content = list(horizon_file(tmp_path, 1.0, width=300, height=200).read_bytes())
    page.add_init_script(f"({LAUNCH})({content})")
    page.goto(set_of(set_page))
    expect(page.get_by_role("link", name="opened.png")).to_be_visible()
